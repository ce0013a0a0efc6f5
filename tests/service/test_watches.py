"""Watched questions: asked with the rights of the moment, judged, told once, whatever is killed."""

from __future__ import annotations

import datetime as dt
import json
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest

from harquel.client import Forbidden, Harquel, HarquelError, Invalid, NotFound, calls
from harquel.contract import Watch, WatchRequest
from harquel.demo.stage import Stage
from tests.outside import Board, board, by_hook, by_mail, let, letters

COUNT = "How many sailings were cancelled last month?"
TO = "odo.finch@marrowick.example"


@pytest.fixture(scope="module")
def own(
    new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory, taker: Board, office: tuple[str, str]
) -> Iterator[Stage]:
    environment = {**by_hook(taker), **by_mail(office[0])}
    with new_stage(tmp_path_factory.mktemp("watches"), environment=environment) as running:
        let(running, to=["board"], mail=["@marrowick.example"])
        yield running


def watched(client: Harquel, inquiry: str, **wish: Any) -> Watch:
    found = {"when": "every day at 8:00", "to": ["board"], **wish}
    return client.send(calls.watch(inquiry, WatchRequest.model_validate(found)))


def ran(client: Harquel, watch: Watch, count: int = 1, within_s: float = 60) -> Watch:
    """Once so many of its runs are done."""
    until = time.monotonic() + within_s
    while time.monotonic() < until:
        found = client.send(calls.read_watch(watch.id))
        if sum(run.state == "done" for run in found.runs) >= count:
            return found
        time.sleep(0.1)
    raise AssertionError(found)


def told(taker: Board, count: int, within_s: float = 30) -> list[dict[str, Any]]:
    until = time.monotonic() + within_s
    while len(taker.heard) < count and time.monotonic() < until:
        time.sleep(0.05)
    found = [json.loads(body) for _, body in taker.heard]
    assert len(found) == count, found
    return found


def records(own: Stage, statement: str, *values: object) -> None:
    """Changes the records from outside, as if time had passed."""
    with closing(sqlite3.connect(own.folder / "records" / "records.db", timeout=20)) as line:
        line.execute(statement, values)
        line.commit()


def due(own: Stage, watch: Watch, since: dt.timedelta) -> None:
    """As if it had been due so long ago."""
    at = (dt.datetime.now(dt.UTC) - since).replace(tzinfo=None)
    records(own, "UPDATE watches_storedwatch SET next_at = ? WHERE key = ?", at.isoformat(" "), watch.id)


def sailings(own: Stage, statement: str) -> None:
    with closing(sqlite3.connect(own.folder / "ferries.db", timeout=20)) as line:
        line.execute(statement)
        line.commit()


def test_what_is_watched_is_asked_again_understood_as_it_was_and_told(
    own: Stage, taker: Board, office: tuple[str, str]
) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask(COUNT, "ferries", as_of=dt.datetime(2026, 8, 3, tzinfo=dt.UTC))
        assert asked.answer is not None
        assert "July 2026" in asked.answer.text
        taker.heard.clear()
        watch = watched(client, asked.id, to=["board", TO], attach="csv", title="Cancelled last month")
        assert (watch.state, watch.cron, watch.zone, watch.tell) == ("on", "0 8 * * *", "UTC", "always")
        assert watch.next_at is not None
        assert watch.next_at > dt.datetime.now(dt.UTC)
        client.send(calls.run_watch(watch.id))
        (run,) = ran(client, watch).runs
        assert (run.outcome, run.figure, run.late, run.tries) == ("told", "12", False, 1), run
        assert run.inquiry is not None
        again = client.inquiry(run.inquiry)
        # Its time has moved along, by the reading of then: no model was asked how it is meant.
        assert again.answer is not None
        assert "August 2026" in again.answer.text
        prompted = [e for e in client.ledger(limit=50, inquiry=run.inquiry).items if e.kind == "prompted"]
        assert len(prompted) == 1
        (event,) = told(taker, 1)
        assert event["type"] == "harquel.watch.told"
        assert event["data"]["watch"]["title"] == "Cancelled last month"
        assert "12" in json.dumps(event["data"]["rows"])
        letter = next(one for one in letters(office) if one["subject"] == "Cancelled last month")
        assert "Asked again, as agreed (every day at 8:00)." in letter["text"]
        assert [part["name"].rpartition(".")[2] for part in letter["parts"]] == ["csv"]
        kinds = [e.kind for e in client.ledger(limit=100).items if e.kind.startswith("watch")]
        assert kinds == ["watch-ran", "watch-added"]
        client.send(calls.end_watch(watch.id))
        with pytest.raises(HarquelError, match="has ended"):
            client.send(calls.run_watch(watch.id))
        assert client.verify_ledger().intact


def test_a_line_is_told_once_and_a_change_only_as_one(own: Stage, taker: Board) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask("How many vessels are there?", "ferries")
        above = watched(client, asked.id, tell="above", line="6")
        change = watched(client, asked.id, tell="change")
        moved = watched(client, asked.id, tell="by", line="30 %")
        taker.heard.clear()

        def look(number: int) -> list[str | None]:
            for one in (above, change, moved):
                client.send(calls.run_watch(one.id))
            return [ran(client, one, number).runs[0].outcome for one in (above, change, moved)]

        assert look(1) == ["quiet", "quiet", "quiet"]
        columns = "built_year, length_m, passenger_capacity, car_capacity, status"
        sailings(own, f"INSERT INTO vessel SELECT 99, 'ZZ', 'Zephyr', {columns} FROM vessel WHERE id = 1")
        try:
            assert look(2) == ["told", "told", "quiet"]
            assert look(3) == ["quiet", "quiet", "quiet"]
        finally:
            sailings(own, "DELETE FROM vessel WHERE id = 99")
        assert look(4) == ["quiet", "told", "quiet"]
        said = [event["data"]["watch"]["said"] for event in told(taker, 3)]
        assert said[0] == "It is above 6 now: 7."
        for one in (above, change, moved):
            client.send(calls.end_watch(one.id))


def test_what_is_doubtful_or_built_otherwise_is_told_without_its_figure(own: Stage, taker: Board) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask("Show all bookings", "ferries")
        assert asked.trust == "caution"
        doubtful = watched(client, asked.id, tell="change")
        taker.heard.clear()
        for number in (1, 2):
            client.send(calls.run_watch(doubtful.id))
            assert ran(client, doubtful, number).runs[0].outcome == "doubt"
        # Told once, not each time.
        (event,) = told(taker, 1)
        assert "doubtful" in event["data"]["watch"]["said"]
        assert "rows" not in event["data"]
        asked = client.ask("How many harbours are there?", "ferries")
        built = watched(client, asked.id)
        records(own, "UPDATE watches_storedwatch SET fingerprint = 'other' WHERE key = ?", built.id)
        taker.heard.clear()
        client.send(calls.run_watch(built.id))
        assert ran(client, built).runs[0].outcome == "doubt"
        assert "built otherwise" in told(taker, 1)[0]["data"]["watch"]["said"]
        client.send(calls.run_watch(built.id))
        assert ran(client, built, 2).runs[0].outcome == "told"
        for one in (doubtful, built):
            client.send(calls.end_watch(one.id))


def test_who_may_and_what_makes_no_sense(own: Stage) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask("How many vessels are there?", "ferries")
        other = client.create_token("other", "Odo Finch", ["*"], ["ask", "audit"])
        for wish, kind, match in (
            ({"to": ["elsewhere"]}, Forbidden, "does not let"),
            ({"to": ["a@other.example"]}, Forbidden, "does not let"),
            ({"when": "sometimes"}, Invalid, "does not say when"), ({"when": "every 5 seconds"}, Invalid, "when"),
            ({"when": "* * * * *"}, Invalid, "more often"), ({"tell": "above"}, Invalid, "line"),
            ({"line": "5"}, Invalid, "line"), ({"quiet": "late"}, Invalid, "hours"),
            ({"quiet": "25:00-07:00"}, Invalid, "hours"),
        ):  # fmt: skip
            with pytest.raises(kind, match=match):
                watched(client, asked.id, **wish)
        watch = watched(client, asked.id)
        with Harquel(own.url, other.secret) as stranger:
            with pytest.raises(Forbidden):
                watched(stranger, asked.id)
            assert watch.id in [one.id for one in stranger.send(calls.watches())]
            for call in (
                calls.run_watch(watch.id),
                calls.end_watch(watch.id),
                calls.change_watch(watch.id, paused=True),
            ):
                with pytest.raises(NotFound):
                    stranger.send(call)
        client.send(calls.end_watch(watch.id))


def test_it_ends_with_its_token_and_goes_nowhere_once_the_policy_says_so(own: Stage, taker: Board) -> None:
    with Harquel(own.url, own.token) as client:
        made = client.create_token("mine", "Rhea Quist", ["ferries"], ["ask"])
        with Harquel(own.url, made.secret) as owner:
            watch = watched(owner, owner.ask("How many vessels are there?", "ferries").id)
            let(own, mail=["@marrowick.example"])
            taker.heard.clear()
            owner.send(calls.run_watch(watch.id))
            run = ran(owner, watch).runs[0]
            assert (run.outcome, "does not let" in run.why) == ("not-sent", True)
            let(own, to=["board"], mail=["@marrowick.example"])
            paused = owner.send(calls.change_watch(watch.id, paused=True))
            assert (paused.state, paused.next_at) == ("paused", None)
            due(own, watch, dt.timedelta(hours=1))
            time.sleep(3)
            assert len(owner.send(calls.read_watch(watch.id)).runs) == 1
            owner.send(calls.change_watch(watch.id, paused=False, when="hourly"))
        client.revoke_token(made.id)
        due(own, watch, dt.timedelta(minutes=1))
        found = ran(client, watch, 2)
        assert (found.state, "counts no more" in found.why_ended) == ("ended", True)
        assert taker.heard == []


def test_after_a_downtime_the_last_is_caught_up_and_killed_in_the_middle_nothing_is_lost_or_twice(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    with board() as there, new_stage(tmp_path, pace_s=1.0, environment=by_hook(there)) as running:
        let(running, to=["board"])
        with Harquel(running.url, running.token) as client:
            watches = [
                watched(client, client.ask("How many vessels are there?", "ferries").id, when="hourly")
                for _ in range(3)
            ]
        running.service.terminate()
        running.service.wait()
        for one in watches:
            due(running, one, dt.timedelta(days=2))
        running.serve_again()
        # In the middle of the first or second of them.
        time.sleep(2.0)
        running.service.kill()
        running.serve_again()
        with Harquel(running.url, running.token) as client:
            found = [ran(client, one) for one in watches]
            for one in found:
                (run,) = one.runs
                assert (run.outcome, run.late) == (
                    "told",
                    dt.datetime.now(dt.UTC) - run.due_at > dt.timedelta(minutes=2),
                ), run
                assert dt.datetime.now(dt.UTC) - run.due_at < dt.timedelta(hours=1, minutes=5)
                assert one.next_at is not None
                assert one.next_at > dt.datetime.now(dt.UTC)
            ended = [i.outcome for i in client.inquiries(limit=50).items]
            # One each, and those that were lost in the middle once more.
            assert (ended.count("answered"), ended.count("failed") <= 1) == (6, True), ended
            until = time.monotonic() + 40
            while len({h["webhook-id"] for h, _ in there.heard}) < 3 and time.monotonic() < until:
                time.sleep(0.1)
            assert len({h["webhook-id"] for h, _ in there.heard}) == 3
            # What came twice says so.
            seen: set[str] = set()
            for told_with, _ in there.heard:
                key = told_with["webhook-id"]
                assert key not in seen or told_with["harquel-try"] != "1"
                seen.add(key)
            assert client.verify_ledger().intact


def test_the_clock_of_the_service_misses_doubles_and_hurries_nothing_while_clocks_are_put(tmp_path: Path) -> None:
    """Summer time, downtimes, and a clock that jumps ahead and back, held against the calendar of the zone alone."""
    program = [sys.executable, str(Path(__file__).with_name("simulated_days.py")), str(tmp_path), "37", "330"]
    found = subprocess.run(program, capture_output=True, text=True, timeout=300, check=True).stdout.splitlines()
    assert [line.split()[0] for line in found] == ["2:30", "8:00", "0:15"], found
    for line in found:
        _, ran_, wanted = line.split()
        assert ran_ == wanted
        assert int(ran_) > 200


def test_two_who_look_at_one_time_make_one_run(own: Stage, taker: Board) -> None:
    script = """
import sys, threading, datetime as dt
from pathlib import Path
from harquel.service.config import load_config
from harquel.service.serving import prepare_django
prepare_django(load_config(Path(sys.argv[1])))
from harquel.service.watches.clock import _due
from harquel.service.watches.models import StoredRun, StoredWatch
from django.db import transaction
watch = StoredWatch.objects.get(key=sys.argv[2])
now = dt.datetime.now(dt.UTC)
def look():
    for _ in range(5):
        with transaction.atomic():
            _due(watch.pk, watch.next_at, now)
threads = [threading.Thread(target=look) for _ in range(4)]
[t.start() for t in threads]; [t.join() for t in threads]
print(StoredRun.objects.filter(watch=watch).count())
"""
    with Harquel(own.url, own.token) as client:
        watch = watched(client, client.ask("How many vessels are there?", "ferries").id)
        client.send(calls.change_watch(watch.id, paused=True))
        at = (dt.datetime.now(dt.UTC) - dt.timedelta(minutes=90)).replace(tzinfo=None).isoformat(" ")
        client.send(calls.standstill(True))
        try:
            records(own, "UPDATE watches_storedwatch SET next_at = ?, state = 'on' WHERE key = ?", at, watch.id)
            command = [sys.executable, "-c", script, str(own.folder / "harquel.toml"), watch.id]
            said = subprocess.run(command, capture_output=True, text=True, check=False)
            assert said.stdout.strip() == "1", said.stderr
        finally:
            client.send(calls.standstill(False))
        ran(client, watch)
        client.send(calls.end_watch(watch.id))


def test_quiet_hours_put_it_off(own: Stage, taker: Board) -> None:
    now = dt.datetime.now(dt.UTC)
    begins, ends = (now - dt.timedelta(hours=1)).strftime("%H:%M"), (now + dt.timedelta(hours=2)).strftime("%H:%M")
    with Harquel(own.url, own.token) as client:
        watch = watched(client, client.ask("How many vessels are there?", "ferries").id, quiet=f"{begins}-{ends}")
        taker.heard.clear()
        client.send(calls.run_watch(watch.id))
        assert ran(client, watch).runs[0].outcome == "told"
        time.sleep(2)
        sending = client.send(calls.sendings())[0]
        assert (sending.state, sending.tries, taker.heard) == ("waiting", 0, [])
        assert sending.next_at is not None
        assert dt.timedelta(hours=1, minutes=55) < sending.next_at - now < dt.timedelta(hours=2, minutes=5)
        client.send(calls.end_watch(watch.id))
