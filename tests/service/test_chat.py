"""Asking in a chat: who is let in, what is told to whom, and what cannot be done from there."""

from __future__ import annotations

import base64
import hashlib
import hmac
import itertools
import json
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from harquel.client import Harquel, NotFound, calls
from harquel.demo.stage import Stage
from tests.outside import SECRET, Board, board, let_chat

NUMBERS = itertools.count(1)
MONTHS = "How many sailings were cancelled per month in 2026?"


def settings(taker: Board, form: str = "plain") -> dict[str, str]:
    at = "HARQUEL__CHATS__TOWN__"
    return {
        f"{at}URL": taker.url, f"{at}SECRET": "env:CHAT_SECRET", f"{at}PRIVATE": "true", f"{at}SOURCE": "ferries",
        f"{at}FORM": form, "CHAT_SECRET": SECRET, "HARQUEL__SERVICE__ADDRESS": "https://harquel.example",
    }  # fmt: skip


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory, taker: Board) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("chat"), pace_s=0.3, environment=settings(taker)) as running:
        yield running


def headers(key: str, body: bytes, at: float | None = None, secret: str = SECRET) -> dict[str, str]:
    """Signed by code that shares nothing with what checks it."""
    stamp = str(int(time.time() if at is None else at))
    told = hmac.new(base64.b64decode(secret[6:]), f"{key}.{stamp}.".encode() + body, hashlib.sha256).digest()
    said = f"v1,{base64.b64encode(told).decode()}"
    return {"webhook-id": key, "webhook-timestamp": stamp, "webhook-signature": said}


def post(own: Stage, body: bytes, signed: dict[str, str], chat: str = "town") -> httpx.Response:
    return httpx.post(f"{own.url}/api/v1/chats/{chat}/messages", content=body, headers=signed, timeout=30)


def message(text: str, person: str, place: str = "", thread: str | None = None, **more: Any) -> tuple[str, bytes]:
    key = f"m{next(NUMBERS)}"
    where = {"id": place or f"direct-{person}", "direct": not place}
    of = {"id": key, "from": {"id": person, **more.pop("of", {})}, "in": where, "thread": thread, "text": text}
    return key, json.dumps({**of, **more}).encode()


def say(own: Stage, text: str, person: str, place: str = "", thread: str | None = None, **more: Any) -> str:
    """Says it; the key of the message."""
    key, body = message(text, person, place, thread, **more)
    found = post(own, body, headers(f"e-{key}", body))
    assert found.status_code == 202, found.text
    return key


def heard(taker: Board) -> list[dict[str, Any]]:
    return [json.loads(body) for _, body in taker.heard]


def replies(taker: Board, thread: str, count: int = 1, revision: int = 2, within_s: float = 30) -> list[dict[str, Any]]:
    """Those in a thread that are final."""
    until = time.monotonic() + within_s
    while time.monotonic() < until:
        found = [r for r in heard(taker) if r["thread"] == thread and r["revision"] >= revision]
        if len(found) >= count:
            return found
        time.sleep(0.05)
    raise AssertionError(heard(taker)[-3:])


def ask(own: Stage, taker: Board, text: str, person: str, place: str = "") -> dict[str, Any]:
    return replies(taker, say(own, text, person, place))[0]


def linked(own: Stage, taker: Board, person: str, name: str = "Odo Finch", **more: Any) -> int:
    """Links somebody of the chat; the number of their token."""
    with Harquel(own.url, own.token) as admin:
        made = admin.create_token(f"of {person}", name, more.get("sources", ["*"]), ["ask"], more.get("roles", []))
    with Harquel(own.url, made.secret) as client:
        code = client.send(calls.chat_code("town"))
    told = ask(own, taker, code.write, person)
    assert f"I know you as {name}" in told["text"]
    return made.id


def test_a_message_is_heard_once_and_only_if_it_is_signed_for_this_moment(own: Stage, taker: Board) -> None:
    taker.heard.clear()
    key, body = message("help", "stranger-1")
    good = headers(f"e-{key}", body)
    now = time.time()
    for bad in (
        {}, {**good, "webhook-signature": ""}, {**good, "webhook-signature": "v1,AAAA"},
        {**good, "webhook-id": "other"},
        {**good, "webhook-timestamp": str(int(now) + 1)}, {**good, "webhook-timestamp": "now"},
        headers(f"e-{key}", body, now - 400), headers(f"e-{key}", body, now + 400), headers(f"e-{key}", body + b" "),
        headers("x" * 300, body), headers(f"e-{key}", body, secret="whsec_" + base64.b64encode(b"x" * 24).decode()),
        {**good, "webhook-signature": good["webhook-signature"].replace("v1,", "v2,")},
        {**good, "webhook-timestamp": "9" * 400}, {**good, "webhook-timestamp": "٣"},
    ):  # fmt: skip
        bytes_ = {k: v.encode() for k, v in bad.items()}
        assert post(own, body, bytes_).status_code == 401  # type: ignore[arg-type]
    assert post(own, body, good, "other").status_code == 401
    for odd in (b"", b"[]", b"{}", b"\xff", b'{"id": 7}', b"[" * 20_000, b'{"id": "x", "from": "y"}'):
        assert post(own, odd, headers("odd", odd)).status_code == 422
    for size in (70_000, 3_000_000):
        large = body + b" " * size
        assert post(own, large, headers("large", large)).status_code == 413
    # While a secret is changed, two signatures stand side by side.
    both = {**good, "webhook-signature": f"v1,AAAA {good['webhook-signature']}"}
    assert [post(own, body, both).status_code, post(own, body, good).status_code] == [202, 200]
    # The same message in another envelope is the same message.
    assert post(own, body, headers("another", body)).status_code == 200
    replies(taker, key)
    time.sleep(1.5)
    assert len(heard(taker)) == 1
    # What was said before comes after: each is heard, and what came first is not heard again.
    early, late = message("help", "stranger-4", thread="t-order"), message("sources", "stranger-4", thread="t-order")
    for (name, text), at in ((late, now), (early, now - 120), (late, now)):
        found = post(own, text, headers(f"e-{name}-{at}", text, at))
        assert found.status_code in (200, 202), found.text
    assert len(replies(taker, "t-order", 2)) == 2
    told, raw = taker.heard[0]
    assert headers(told["webhook-id"], raw, float(told["webhook-timestamp"])).items() <= told.items()


def test_whoever_is_not_linked_gets_nothing_but_how_to_be(own: Stage, taker: Board) -> None:
    taker.heard.clear()
    for text in ("help", "sources", "How many vessels are there?", "BW", "why?", "stop"):
        say(own, text, "stranger-2", thread="t-strange")
    time.sleep(3)
    told = [r for r in heard(taker) if r["thread"] == "t-strange"]
    # After three times there is silence: two programs would go on for ever.
    assert len(told) == 3
    assert {r["text"][:22] for r in told} == {"I do not know yet who "}
    # In a channel it is told to them alone.
    assert ask(own, taker, "How many vessels are there?", "stranger-3", "harbour")["to"] == "stranger-3"
    with Harquel(own.url, own.token) as client:
        assert not [e for e in client.ledger(limit=100).items if e.kind in ("told-in-chat", "accepted")]


def test_a_code_links_once_and_ends_with_its_token(own: Stage, taker: Board) -> None:
    with Harquel(own.url, own.token) as admin:
        made = admin.create_token("for the chat", "Rhea Quist", ["*"], ["ask", "steward"])
        with Harquel(own.url, made.secret) as client:
            first, second = (client.send(calls.chat_code("town")) for _ in range(2))
            with pytest.raises(NotFound, match="no chat"):
                client.send(calls.chat_code("elsewhere"))
            # One that others read counts no more, and neither does an earlier one.
            assert "counts no more" in ask(own, taker, second.write, "rhea", "harbour")["text"]
            third = client.send(calls.chat_code("town"))
            for code in (first.write, second.write, "link ABCDE-FGHJK"):
                assert "does not count" in ask(own, taker, code, "rhea")["text"]
            assert "Rhea Quist" in ask(own, taker, third.write.lower().replace("-", ""), "rhea")["text"]
            assert "does not count" in ask(own, taker, third.write, "tam")["text"]
            (link,) = client.send(calls.chat_links())
            assert (link.theirs, link.person) == ("rhea", "Rhea Quist")
        assert ask(own, taker, "How many vessels are there?", "rhea")["text"].startswith("Vessels: 6.")
        other = admin.create_token("other", "Odo Finch", ["*"], ["ask"])
        with Harquel(own.url, other.secret) as stranger:
            assert stranger.send(calls.chat_links()) == []
            with pytest.raises(NotFound):
                stranger.send(calls.end_chat_link(link.id))
        admin.revoke_token(made.id)
        assert "do not know" in ask(own, taker, "How many vessels are there?", "rhea")["text"]
        kinds = [e.kind for e in admin.ledger(limit=50).items if "link" in e.kind]
        assert kinds == ["chat-linked"]
        assert admin.verify_ledger().intact


def test_codes_are_not_guessed(own: Stage, taker: Board) -> None:
    told = [ask(own, taker, f"link AAAAA-{n:05}", "guesser")["text"] for n in range(7)]
    assert [("does not count" in text, "Too many codes" in text) for text in told] == [(True, False)] * 5 + [
        (False, True)
    ] * 2


def test_an_answer_is_short_and_has_its_mark_its_rows_its_chart_and_a_link(own: Stage, taker: Board) -> None:
    linked(own, taker, "odo")
    taker.heard.clear()
    thread = say(own, MONTHS, "odo")
    (told,) = replies(taker, thread)
    thinking = next(r for r in heard(taker) if r["thread"] == thread)
    assert (thinking["id"], thinking["revision"], thinking["text"]) == (told["id"], 1, "Thinking …")
    assert len(told["text"]) + len(told["link"]) <= 600
    assert "Mark: clear." in told["text"]
    rows = told["table"].splitlines()
    assert (len(rows), rows[1].split()) == (9, ["2026-01", "51"])
    assert base64.b64decode(told["picture"]).startswith(b"\x89PNG")
    assert told["link"].startswith("https://harquel.example/inquiries/")
    # A thread is a conversation.
    assert "cancelled" in ask_in(own, taker, "why?", thread)["text"]
    assert len(ask_in(own, taker, "table", thread)["table"].splitlines()) == 10
    assert "2025" in ask_in(own, taker, "and last year?", thread)["text"]
    say(own, "", "odo", thread=thread, choice=told["choices"][0]["id"])
    assert "cancelled" in replies(taker, thread, 5)[-1]["text"]
    doubtful = ask(own, taker, "Show all bookings", "odo")
    assert "Take with caution: " in doubtful["text"]
    for said, n in (("keep this in Winter timetable", 1), ("behalte das in „winter Timetable“!", 2)):
        kept = ask_in(own, taker, said, thread)
        assert "inter timetable" in kept["text"], kept
        assert str(n) in kept["text"]
        assert kept["link"].startswith("https://harquel.example/casebooks/cb_")
    assert "no answer in this thread" in ask(own, taker, "keep this in Winter timetable", "odo")["text"]
    # In German it is told in German.
    assert "Zeichen: klar." in ask(own, taker, "Wie viele Fahrten fielen im August 2026 aus?", "odo")["text"]


def ask_in(own: Stage, taker: Board, text: str, thread: str, person: str = "odo") -> dict[str, Any]:
    before = len([r for r in heard(taker) if r["thread"] == thread and r["revision"] >= 2])
    say(own, text, person, thread=thread)
    return replies(taker, thread, before + 1)[-1]


def test_what_is_asked_back_is_chosen_by_number_or_button_and_a_word_is_a_look_up(own: Stage, taker: Board) -> None:
    linked(own, taker, "chooser")
    question = "How many were cancelled in August 2026?"
    first = say(own, question, "chooser")
    (back,) = replies(taker, first)
    assert back["text"].count("\n") >= 3
    assert "1. " in back["text"]
    assert "from 1 to" in ask_in(own, taker, "9", first, "chooser")["text"]
    assert "Mark" in ask_in(own, taker, "2", first, "chooser")["text"] or "caution" in heard(taker)[-1]["text"]
    again = say(own, question, "chooser")
    (choices,) = (r["choices"] for r in replies(taker, again))
    say(own, "", "chooser", thread=again, choice=choices[0]["id"])
    assert "ark" in replies(taker, again, 2)[-1]["text"]
    # Nobody presses what was offered to another.
    linked(own, taker, "ada", "Ada Brinewell")
    say(own, "", "ada", thread="t-other", choice=choices[0]["id"])
    assert "no inquiry" in replies(taker, "t-other")[-1]["text"]
    assert "Brightwater" in ask(own, taker, "BW", "chooser")["text"]
    for word in ("flurb", "4711"):
        assert f"What about “{word}”?" in ask(own, taker, word, "chooser")["text"]
    # A number where nothing was asked back is no question, and not passed over either.
    thread = say(own, "How many vessels are there?", "chooser")
    replies(taker, thread)
    assert "What about “2”?" in ask_in(own, taker, "2", thread, "chooser")["text"]


def test_what_is_under_way_is_stopped(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with board() as slow, new_stage(tmp_path, pace_s=20, environment=settings(slow)) as running:
        linked(running, slow, "odo")
        thread = say(running, "Which five routes earned most this year?", "odo")
        replies(slow, thread, revision=1)
        until = time.monotonic() + 20
        with Harquel(running.url, running.token) as admin:
            while not (going := [i for i in admin.inquiries().items if i.state == "working"]):
                assert time.monotonic() < until
                time.sleep(0.1)
            assert "still at what you asked" in ask_in(running, slow, "how many vessels are there?", thread)["text"]
            assert ask_in(running, slow, "stop", thread)["text"] == "Stopped."
            while admin.inquiry(going[0].id).outcome != "cancelled":
                assert time.monotonic() < until
                time.sleep(0.1)


def test_what_is_told_goes_to_whom_it_may(own: Stage, taker: Board) -> None:
    linked(own, taker, "crew", "Mara Holt", roles=["crewing"], sources=["ferries", "pair"])
    question = "How many vessels are there?"
    openly = ask(own, taker, question, "crew", "harbour")
    assert (openly["in"], "Vessels: 6." in openly["text"]) == ("harbour", True)
    taker.heard.clear()
    thread = say(own, question, "crew", "office")
    (there,) = replies(taker, thread)
    assert (there["in"], "6." in there["text"]) == ("office", False)
    alone = next(r for r in heard(taker) if r.get("to") == "crew")
    assert "Vessels: 6." in alone["text"]
    # What goes to them alone is a conversation that goes on there.
    further = ask_in(own, taker, "How many vessels are there per status?", alone["thread"], "crew")
    assert "active" in further["table"] + further["text"]
    # Names of people go into no chat, however much whoever asks may see of them.
    named = ask(own, taker, "List the names of all crew members", "crew")
    assert "something personal" in named["text"]
    assert named["link"]
    assert not named["table"]
    # And what is asked back of somebody who may see them, neither.
    assert "may not be told" in ask(own, taker, "How many were cancelled in August 2026?", "crew")["text"]
    # A source whose policy names no chat is not there.
    assert "ferries, pair." in ask(own, taker, "sources", "crew")["text"]
    linked(own, taker, "none", "Nan Oldway", sources=["ferries"])
    let_chat(own, None)
    try:
        assert "nothing here" in ask(own, taker, question, "none")["text"]
        assert "about: pair." in ask(own, taker, "sources", "crew")["text"]
    finally:
        let_chat(own, {"to": ["town"], "openly": ["harbour"]})
    with Harquel(own.url, own.token) as admin:
        told = [e.facts for e in admin.ledger(limit=200).items if e.kind == "told-in-chat"]
        assert {(f["place"], f["alone"]) for f in told} >= {("harbour", False), ("office", True)}
        assert admin.verify_ledger().intact


def test_what_shows_which_sources_somebody_has_is_told_to_them_alone(own: Stage, taker: Board) -> None:
    linked(own, taker, "quiet", "Tam Oake", sources=["rough", "pair"])
    offered = ""
    # Which source it is of is asked back, even where everybody may read along; a problem may name what there is.
    for text in ("help", "sources", "flurb", "How many vessels are there?", "pressed"):
        taker.heard.clear()
        pressed = {"choice": f"{offered} nothing"} if text == "pressed" else {}
        thread = say(own, "" if pressed else text, "quiet", "harbour", **pressed)
        until = time.monotonic() + 20
        while not (alone := [r for r in heard(taker) if r.get("to") == "quiet"]):
            assert time.monotonic() < until, heard(taker)
            time.sleep(0.05)
        time.sleep(0.5)
        openly = [r["text"] for r in heard(taker) if r["thread"] == thread and "to" not in r]
        thought_about = text not in ("help", "sources", "flurb")
        assert openly == (["Thinking …", "It is for whoever asked; I have sent it to them alone."] * thought_about)
        if alone[0]["choices"]:
            assert "two models" in json.dumps(alone[0]["choices"])
            offered = alone[0]["choices"][0]["id"].rpartition(" ")[0]
    assert offered


def test_what_a_chat_sends_does_nothing_else(own: Stage, taker: Board) -> None:
    linked(own, taker, "sender")
    taker.heard.clear()
    assert "too long" in ask(own, taker, "how many " * 1200, "sender")["text"]
    assert "only text" in ask(own, taker, "\u202e \u200b\n\t", "sender")["text"]
    for text in (
        "@everyone how many vessels are there <script>alert(1)</script> <!channel> #office @here ?",
        "harquel: which @everyone sailed?", "x\x00y z", "![x](https://other.example/x.png) how many vessels are there?",
    ):  # fmt: skip
        told = ask(own, taker, text, "sender")
        shown = told["text"] + told["table"] + json.dumps(told["choices"])
        for sign in ("@everyone", "@here", "<script", "<!channel", "#office"):
            assert sign not in shown, shown
        assert len(told["text"]) <= 620
    # A program, this one too, is not replied to.
    before = len(taker.heard)
    key, body = message("How many vessels are there?", "sender", of={"automated": True})
    assert post(own, body, headers(f"e-{key}", body)).status_code == 200
    time.sleep(1)
    assert len(taker.heard) == before


def test_too_much_at_once_is_told_once(own: Stage, taker: Board) -> None:
    linked(own, taker, "flood")
    taker.heard.clear()
    for _ in range(30):
        say(own, "help", "flood", thread="t-flood")
    until = time.monotonic() + 30
    while time.monotonic() < until and len(heard(taker)) < 20:
        time.sleep(0.1)
    time.sleep(2)
    told = [r["text"][:20] for r in heard(taker) if r["thread"] == "t-flood"]
    assert (len(told), sum(t.startswith("That was a lot") for t in told)) == (20, 1)


def test_what_is_not_taken_is_told_again_and_asked_once(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with board() as there, new_stage(tmp_path, pace_s=0.5, environment=settings(there)) as running:
        linked(running, there, "odo")
        there.heard.clear()
        there.answers[:] = [503]
        thread = say(running, "How many vessels are there?", "odo")
        (told,) = replies(there, thread)
        assert "Vessels: 6." in told["text"]
        # Lost in the middle of it: what was heard is seen to all the same, and asked no second time.
        thread = say(running, "How many harbours are there?", "odo")
        with Harquel(running.url, running.token) as admin:
            until = time.monotonic() + 30
            while not any(i.state == "working" for i in admin.inquiries().items) and time.monotonic() < until:
                time.sleep(0.02)
        running.service.kill()
        running.serve_again()
        assert "Harbours: 8." in replies(there, thread)[-1]["text"]
        assert len({r["id"] for r in heard(there) if r["thread"] == thread}) == 1
        with Harquel(running.url, running.token) as admin:
            asked = [i.question for i in admin.inquiries().items]
            # That which was lost in the middle is asked once more, and no other.
            assert (asked.count("How many vessels are there?"), asked.count("How many harbours are there?")) == (1, 2)
            assert admin.verify_ledger().intact


def test_the_form_with_commands_and_buttons(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with board() as there, new_stage(tmp_path, environment=settings(there, "buttons")) as running:
        with Harquel(running.url, running.token) as admin:
            code = admin.send(calls.chat_code("town"))
        events = [
            {"kind": "written", "user": "u", "channel": "d", "private": True, "message": "m1", "text": code.write},
            {"kind": "command", "user": "u", "channel": "harbour", "command": "/harquel", "text": MONTHS},
            {"kind": "joined", "user": "u", "channel": "harbour"},
            {"kind": "written", "user": "u", "channel": "harbour", "message": "m2", "text": "hm", "by_program": True},
        ]  # fmt: skip
        for number, event in enumerate(events):
            body = json.dumps({**event, "event": f"e{number}"}).encode()
            assert post(running, body, headers(f"h{number}", body)).status_code == (202 if number < 2 else 200)
            if number < 2:
                replies(there, ("m1", "e1")[number])
        told = json.loads(there.heard[-1][1])
        assert (told["channel"], told["thread"]) == ("harbour", "e1")
        assert [p["part"] for p in told["parts"]] == ["text", "fixed-width", "image", "buttons", "link"]
        pressed = {"kind": "pressed", "event": "e9", "user": "u", "channel": "harbour", "thread": "e1"}
        body = json.dumps({**pressed, "value": told["parts"][3]["buttons"][1]["value"]}).encode()
        assert post(running, body, headers("h9", body)).status_code == 202
        until = time.monotonic() + 30
        while json.loads(there.heard[-1][1])["message"] == told["message"] and time.monotonic() < until:
            time.sleep(0.05)
        assert len(json.loads(there.heard[-1][1])["parts"][1]["text"].splitlines()) == 10
