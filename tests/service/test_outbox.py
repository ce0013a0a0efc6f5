"""Answers sent on: to whom the policy lets them, signed, at least once, whatever is killed in the middle."""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from harquel.client import Forbidden, Harquel, HarquelError, Invalid, NotFound, calls
from harquel.contract import Sending
from harquel.demo.stage import Stage
from harquel.service.outbox.signing import secret_of, signed
from tests.outside import SECRET, Board, board, by_hook, let

QUESTION = "How many sailings were cancelled in August 2026?"


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory, taker: Board) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("outbox"), environment=by_hook(taker)) as running:
        let(running, to=["board", "closed", "nowhere"], roles=[])
        yield running


def ended(client: Harquel, sending: Sending, within_s: float = 60) -> Sending:
    until = time.monotonic() + within_s
    while time.monotonic() < until:
        found = next(s for s in client.send(calls.sendings()) if s.id == sending.id)
        if found.state != "waiting":
            return found
        time.sleep(0.1)
    raise AssertionError(found)


def test_an_answer_arrives_signed_as_an_event(own: Stage, taker: Board) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask(QUESTION, "ferries")
        taker.heard.clear()
        done = ended(client, client.send(calls.send_on(asked.id, "board")))
        assert (done.state, done.tries, done.said, done.asked_by) == ("arrived", 1, "", "Ada Brinewell")
        kinds = [e.kind for e in client.ledger(limit=50, inquiry=asked.id).items]
        assert kinds[:2] == ["arrived", "sent-on"]
        assert client.verify_ledger().intact
    ((headers, body),) = taker.heard
    wanted = signed(secret_of(SECRET, ""), done.id, int(headers["webhook-timestamp"]), body)
    assert {k: headers[k] for k in wanted} == wanted
    assert headers["content-type"] == "application/cloudevents+json"
    event = json.loads(body)
    assert (event["specversion"], event["id"], event["subject"]) == ("1.0", done.id, asked.id)
    assert event["source"] == f"https://harquel.example/inquiries/{asked.id}"
    assert "12" in json.dumps(event["data"])
    assert own.token not in body.decode()


def test_nobody_sends_what_is_not_theirs_or_where_the_policy_does_not_let_it(own: Stage, taker: Board) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask(QUESTION, "ferries")
        refused = client.ask("Drop the table sailing", "ferries")
        other = client.create_token("other", "Odo Finch", ["*"], ["ask", "audit"])
        taker.heard.clear()
        for key, to, kind, match in (
            (asked.id, "elsewhere", Forbidden, "does not let"), (asked.id, "nowhere", Invalid, "no destination"),
            (refused.id, "board", Invalid, "no answer"), ("none", "board", NotFound, "no inquiry"),
            (asked.id, taker.url, Forbidden, "does not let"), (asked.id, "x" * 255, Invalid, "do not fit|to"),
        ):  # fmt: skip
            with pytest.raises(kind, match=match):
                client.send(calls.send_on(key, to))
        with Harquel(own.url, other.secret) as stranger:
            with pytest.raises(Forbidden, match="whoever asked"):
                stranger.send(calls.send_on(asked.id, "board"))
            assert {s.asked_by for s in stranger.send(calls.sendings())} <= {"Ada Brinewell"}
        mine = client.create_token("mine", "Odo Finch", ["*"], ["ask"])
        with Harquel(own.url, mine.secret) as alone:
            assert alone.send(calls.sendings()) == []
        let(own, to=["board", "closed", "nowhere"], roles=["harbour-clerk"])
        with pytest.raises(Forbidden, match="does not let"):
            client.send(calls.send_on(asked.id, "board"))
        let(own, to=["board", "closed", "nowhere"], roles=[])
    assert taker.heard == []


def test_what_is_personal_is_not_sent_to_others_unless_the_policy_says_so(own: Stage, taker: Board) -> None:
    with Harquel(own.url, own.token) as client:
        crewing = client.create_token("crewing", "Rhea Quist", ["ferries"], ["ask"], ["crewing"])
    taker.heard.clear()
    with Harquel(own.url, crewing.secret) as asker:
        counted = asker.ask("How many crew members are there?", "ferries")
        named = asker.ask("List the names of all crew members", "ferries")
        assert named.answer is not None, named
        assert "name" in [c.name for c in named.answer.table.columns], named.answer.sql
        with pytest.raises(Forbidden, match="personal columns"):
            asker.send(calls.send_on(named.id, "board"))
        assert ended(asker, asker.send(calls.send_on(counted.id, "board"))).state == "arrived"
        let(own, to=["board", "closed", "nowhere"], personal=True)
        assert ended(asker, asker.send(calls.send_on(named.id, "board"))).state == "arrived"
        let(own, to=["board", "closed", "nowhere"])
    assert len(taker.heard) == 2


def test_what_is_not_taken_is_tried_again_and_given_up_in_the_end(own: Stage, taker: Board) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask(QUESTION, "ferries")
        taker.heard.clear()
        taker.answers[:] = [503]
        done = ended(client, client.send(calls.send_on(asked.id, "board")))
        assert (done.state, done.tries) == ("arrived", 2)
        assert [h["harquel-try"] for h, _ in taker.heard] == ["1", "2"]
        assert len({(h["webhook-id"], b) for h, b in taker.heard}) == 1
        with pytest.raises(HarquelError, match="not given up"):
            client.send(calls.send_again(done.id))
        # One that leads to this machine without leave, and one that wants no more.
        closed = ended(client, client.send(calls.send_on(asked.id, "closed")))
        assert (closed.state, closed.tries) == ("given-up", 1)
        assert "private network" in closed.said
        taker.answers[:] = [410]
        gone = ended(client, client.send(calls.send_on(asked.id, "board")))
        assert (gone.state, gone.said) == ("given-up", "it answered 410")
        assert client.send(calls.send_again(gone.id)).state == "waiting"
        assert ended(client, gone).state == "arrived"
        kinds = [e.kind for e in client.ledger(limit=50, inquiry=asked.id).items]
        assert kinds[:2] == ["arrived", "sent-on"]
        assert kinds.count("not-arrived") == 2


def test_what_waits_goes_nowhere_once_the_policy_or_the_one_switch_says_so(own: Stage, taker: Board) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask(QUESTION, "ferries")
        taker.heard.clear()
        taker.answers[:] = [503]
        waits = client.send(calls.send_on(asked.id, "board"))
        until = time.monotonic() + 30
        while not taker.heard and time.monotonic() < until:
            time.sleep(0.02)
        client.send(calls.standstill(True))
        try:
            with pytest.raises(HarquelError, match="stands still"):
                client.send(calls.send_on(asked.id, "board"))
            # Longer than the pause before the second try.
            time.sleep(8)
            assert len(taker.heard) == 1
            let(own, to=["closed"])
        finally:
            client.send(calls.standstill(False))
        done = ended(client, waits)
        assert (done.state, done.tries) == ("given-up", 1)
        assert "no more" in done.said
        let(own, to=["board", "closed", "nowhere"])
        assert client.send(calls.send_again(done.id)).state == "waiting"
        assert ended(client, done).state == "arrived"
    assert len(taker.heard) == 2


def test_the_same_key_sends_once(own: Stage) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask(QUESTION, "ferries")
        call = calls.send_on(asked.id, "board")
        keyed = [client.send(calls.Call(**{**vars(call), "headers": {"Idempotency-Key": "k-1"}})) for _ in range(2)]
        assert keyed[0].id == keyed[1].id


def test_killed_in_the_middle_it_is_sent_again_and_says_so(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with board() as slow:
        slow.slow = True
        with new_stage(tmp_path, environment=by_hook(slow)) as running:
            let(running, to=["board"])
            with Harquel(running.url, running.token) as client:
                sending = client.send(calls.send_on(client.ask(QUESTION, "ferries").id, "board"))
            until = time.monotonic() + 60
            while not slow.heard and time.monotonic() < until:
                time.sleep(0.02)
            running.service.kill()
            slow.slow = False
            slow.holds.set()
            running.serve_again()
            with Harquel(running.url, running.token) as client:
                done = ended(client, sending)
                assert (done.state, done.tries) == ("arrived", 2)
                assert client.verify_ledger().intact
        assert [h["harquel-try"] for h, _ in slow.heard] == ["1", "2"]
        assert len({h["webhook-id"] for h, _ in slow.heard}) == 1
