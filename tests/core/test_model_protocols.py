"""Each protocol against a server that speaks it, streamed and whole; what goes wrong in each; several in turn."""

from __future__ import annotations

import json
import socket
import threading
import time
import tracemalloc
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
import yaml

from harquel.contract import events
from harquel.core.domain.events import Event, Unwatched
from harquel.core.errors import Cancelled, CoreError, ModelError, ModelRefused, ModelUnreachable
from harquel.core.llm import over_http
from harquel.core.llm.breaker import FAILURES, FIRST_S, Breaker
from harquel.core.llm.chain import Chain
from harquel.core.llm.model import Completion, Message, ModelProfile, ProtocolName
from harquel.core.llm.over_http import HttpModel
from harquel.core.llm.shared import SharedModel
from harquel.core.llm.wire import WIRES
from harquel.core.prompts import NoSqlReply, SqlReply, take_apart
from harquel.core.prompts.shapes import DRAFT, READING
from harquel.testing.model import simulated_model
from harquel.testing.sources import ask, expected

from .conftest import Make

PROTOCOLS: tuple[ProtocolName, ...] = ("chat-completions", "messages", "generate-content")
QUESTION = """## Now
2026-09-14 10:00:00 (Monday)

## Schema
CREATE TABLE lantern (
  id INTEGER PRIMARY KEY
);

## Question
How many lanterns are there?"""
ASKED: list[Message] = [
    {"role": "system", "content": "Write SQL."},
    {"role": "user", "content": QUESTION},
]
KEY = "k3y"


@pytest.fixture(scope="module")
def url() -> Iterator[str]:
    with simulated_model(key=KEY) as found:
        yield found


def never() -> bool:
    return False


def profile(url: str, name: str, protocol: ProtocolName, **more: Any) -> ModelProfile:
    return ModelProfile(url, name, KEY, timeout_s=5, protocol=protocol, called="ours", **more)


def complete(found: ModelProfile, within_s: float = 20, tries: int = 4, **more: Any) -> Completion:
    model = HttpModel(found)
    try:
        return model.complete(ASKED, on_piece=None, stopped=never, within_s=within_s, tries=tries, **more)
    finally:
        model.close()


@pytest.mark.parametrize("stream", [True, False])
@pytest.mark.parametrize("structured", [True, False])
@pytest.mark.parametrize("protocol", PROTOCOLS)
def test_a_reply_is_the_same_in_each_protocol(url: str, protocol: ProtocolName, stream: bool, structured: bool) -> None:
    heard: list[str | None] = []
    model = HttpModel(profile(url, "careful", protocol, stream=stream, structured=structured, longest=500, cached=True))
    done = model.complete(ASKED, on_piece=heard.append, stopped=never, within_s=20, shape=DRAFT)
    model.close()
    said = json.loads(done.text)
    assert said["sql"] == "SELECT COUNT(*) AS lantern_count FROM lantern"
    assert "".join(p or "" for p in heard) == done.text
    assert (done.prompt_tokens > 10, done.completion_tokens > 10, done.cut) == (True, True, False)
    assert done.by is not None
    assert done.by.called == "ours"
    assert done.first_ms > 0
    assert "careful" in HttpModel(profile(url, "careful", protocol)).listed()


FAULTS: dict[str, tuple[type[CoreError] | None, str]] = {
    "too-many": (ModelUnreachable, "answered 429"), "too-many-wait": (ModelUnreachable, "answered 429"),
    "broken": (ModelUnreachable, "answered 500"), "overloaded": (ModelUnreachable, "answered 529"),
    "wrong-key": (ModelRefused, "does not know our key"), "used-up": (ModelRefused, "is used up"),
    "too-long": (ModelRefused, "longer than the language model"),
    "cut-off": (ModelUnreachable, "broke off|cannot be read"),
    "slow-start": (None, ""), "slow-drip": (None, ""), "html": (ModelUnreachable, "not valid JSON"),
    "foreign": (ModelUnreachable, "does not speak|cannot be read"), "bad-text": (ModelUnreachable, "cannot be read"),
    "large": (ModelRefused, "more than 200,000 characters"), "endless": (ModelRefused, "sent more than"),
    "tool-call": (ModelRefused, "called a tool"), "refusal": (ModelRefused, "kept its reply back"),
    "filtered": (ModelRefused, "kept its reply back"), "length": (None, ""),
}  # fmt: skip


@pytest.mark.parametrize("stream", [True, False], ids=["streamed", "whole"])
@pytest.mark.parametrize("kind", FAULTS)
@pytest.mark.parametrize("protocol", PROTOCOLS)
def test_each_fault_is_a_clear_outcome(url: str, protocol: ProtocolName, kind: str, stream: bool) -> None:
    wanted, words = FAULTS[kind]
    found = profile(url, f"trouble-{kind}", protocol, stream=stream)
    before = threading.active_count()
    tracemalloc.start()
    began = time.monotonic()
    try:
        if wanted is None:
            done = complete(found)
            assert done.cut is (kind == "length")
            assert done.text.startswith("{")
        else:
            with pytest.raises(wanted, match=words) as raised:
                complete(found, tries=1)
            assert isinstance(raised.value, ModelError)
            assert raised.value.hint
        held = tracemalloc.get_traced_memory()[1]
    finally:
        tracemalloc.stop()
    assert time.monotonic() - began < 15
    assert held < 60_000_000
    deadline = time.monotonic() + 5
    while threading.active_count() > before and time.monotonic() < deadline:
        time.sleep(0.02)
    assert threading.active_count() <= before


@pytest.mark.parametrize("kind", ["too-many", "too-many-wait", "broken", "overloaded", "cut-off", "html", "bad-text"])
@pytest.mark.parametrize("protocol", PROTOCOLS)
def test_what_passes_is_tried_again(url: str, protocol: ProtocolName, kind: str) -> None:
    heard: list[str] = []

    def piece(text: str | None) -> None:
        heard.append(text) if text is not None else heard.clear()

    model = HttpModel(profile(url, f"trouble-{kind}-once", protocol))
    asked: list[Message] = [*ASKED[:1], {"role": "user", "content": f"{ASKED[1]['content']} ({protocol}, {kind})"}]
    done = model.complete(asked, on_piece=piece, stopped=never, within_s=20)
    model.close()
    assert done.text.startswith("{")
    assert "".join(heard) == done.text


@pytest.mark.parametrize(
    "first", ["http://127.0.0.1:9/v1", "cut-off", "html", "overloaded", "foreign", "wrong-key", "refusal"]
)
@pytest.mark.parametrize("protocol", PROTOCOLS)
def test_another_takes_over(url: str, protocol: ProtocolName, first: str) -> None:
    away = first.startswith("http")
    broken = profile(first if away else url, "careful" if away else f"trouble-{first}", protocol)
    heard: list[str] = []

    def piece(text: str | None) -> None:
        heard.append(text) if text is not None else heard.clear()

    models = [
        SharedModel(HttpModel(found), 4) for found in (broken, replace(profile(url, "careful", protocol), called="b"))
    ]
    done = Chain(models).complete(ASKED, on_piece=piece, stopped=never, within_s=20)
    assert done.by is not None
    assert done.by.called == "b"
    assert "".join(heard) == done.text
    assert [m.counts.failures for m in models] == [1, 0]


def test_where_all_fail_each_is_named_and_a_prompt_that_is_too_long_ends_the_chain(url: str) -> None:
    def chain(*names: str) -> Chain:
        return Chain([SharedModel(HttpModel(profile(url, n, "messages")), 4) for n in names])

    with pytest.raises(ModelUnreachable, match=r"trouble-wrong-key.*trouble-broken"):
        chain("trouble-wrong-key", "trouble-broken").complete(ASKED, on_piece=None, stopped=never, within_s=20)
    with pytest.raises(ModelRefused) as raised:
        chain("trouble-too-long", "careful").complete(ASKED, on_piece=None, stopped=never, within_s=20)
    assert raised.value.fault == "context"
    with pytest.raises(Cancelled):
        chain("trouble-slow-start", "careful").complete(ASKED, on_piece=None, stopped=lambda: True, within_s=20)


def test_the_time_is_one_for_all(url: str) -> None:
    models = [SharedModel(HttpModel(profile(url, "trouble-endless", "messages", stream=False)), 4) for _ in range(3)]
    began = time.monotonic()
    with pytest.raises(ModelError):
        Chain(models).complete(ASKED, on_piece=None, stopped=never, within_s=2)
    assert time.monotonic() - began < 4


def test_who_is_slow_is_overtaken(url: str) -> None:
    slow, fast = (SharedModel(HttpModel(profile(url, n, "messages")), 4) for n in ("trouble-slow-start", "careful"))
    done = Chain([slow, fast], hedge_s=0.2).complete(ASKED, on_piece=None, stopped=never, within_s=20)
    assert done.by is not None
    assert done.by.name == "careful"
    done = Chain([fast, slow], hedge_s=5).complete(ASKED, on_piece=None, stopped=never, within_s=20)
    assert done.by is not None
    assert done.by.name == "careful"


class Clock:
    def __init__(self) -> None:
        self.now = 100.0

    def __call__(self) -> float:
        return self.now


def test_who_fails_often_is_left_alone_and_tried_by_one() -> None:
    clock = Clock()
    breaker = Breaker(clock)
    one = object()
    for _ in range(FAILURES):
        assert breaker.enter(one)
        breaker.left(one, False)
    assert breaker.look().state == "open"
    assert not breaker.enter(object())
    clock.now += FIRST_S
    assert breaker.look().state == "trying"
    assert breaker.enter(one)
    assert not breaker.enter(object())
    breaker.left(one, False)
    clock.now += FIRST_S
    assert not breaker.enter(object())
    clock.now += FIRST_S
    assert breaker.enter(one)
    # One that was stopped says nothing: the next may try.
    breaker.left(one, None)
    assert breaker.enter(one)
    breaker.left(one, True)
    assert breaker.look().state == "closed"
    assert breaker.enter(object())
    assert breaker.enter(object())


def test_a_chain_passes_over_who_is_left_alone_and_faults_of_a_question_open_nothing(url: str) -> None:
    bad, good = (SharedModel(HttpModel(profile(url, n, "messages")), 4) for n in ("trouble-wrong-key", "careful"))
    for _ in range(FAILURES + 2):
        Chain([bad, good]).complete(ASKED, on_piece=None, stopped=never, within_s=20)
    assert (bad.breaker.look().state, bad.counts.calls) == ("open", FAILURES)
    with pytest.raises(ModelUnreachable, match="is left alone for"):
        Chain([bad]).complete(ASKED, on_piece=None, stopped=never, within_s=20)
    long = SharedModel(HttpModel(profile(url, "trouble-too-long", "messages")), 4)
    for _ in range(FAILURES + 1):
        with pytest.raises(ModelRefused):
            Chain([long]).complete(ASKED, on_piece=None, stopped=never, within_s=20)
    assert long.breaker.look().state == "closed"


def test_who_hangs_is_left_alone_and_who_had_no_time_is_not(monkeypatch: pytest.MonkeyPatch) -> None:
    """A server that takes calls and says nothing; "late" by itself says nothing of a model."""
    monkeypatch.setattr(over_http, "_HANGS_S", 0.2)
    with closing(socket.create_server(("127.0.0.1", 0))) as server:
        at = f"http://127.0.0.1:{server.getsockname()[1]}"
        for within_s, state in ((0.1, "closed"), (0.25, "open")):
            model = SharedModel(HttpModel(profile(at, "hangs", "messages")), 4)
            for _ in range(FAILURES):
                with pytest.raises(ModelUnreachable, match="did not finish"):
                    Chain([model]).complete(ASKED, on_piece=None, stopped=never, within_s=within_s)
            assert model.breaker.look().state == state


def test_no_more_calls_at_once_than_a_model_takes(url: str) -> None:
    model, most, under_way, lock = (
        SharedModel(HttpModel(profile(url, "trouble-slow-start", "messages")), 2),
        [0],
        [0],
        threading.Lock(),
    )
    inner = model.model.complete

    def counted(*args: Any, **named: Any) -> Completion:
        with lock:
            under_way[0] += 1
            most[0] = max(most[0], under_way[0])
        try:
            return inner(*args, **named)
        finally:
            with lock:
                under_way[0] -= 1

    model.model.complete = counted  # type: ignore[method-assign]
    ask: Callable[[], object] = lambda: Chain([model]).complete(ASKED, on_piece=None, stopped=never, within_s=20)  # noqa: E731
    threads = [threading.Thread(target=ask) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert (most[0], model.counts.calls, model.counts.failures) == (2, 6, 0)


@pytest.mark.parametrize("protocol", PROTOCOLS)
def test_the_same_conversation_is_the_same_bytes_and_settings_go_along(protocol: ProtocolName) -> None:
    found = profile("http://x.example", "n/1", protocol, effort="high", temperature=None, fields={"user": "harquel"})
    one, other = (WIRES[protocol].write(found, ASKED, DRAFT) for _ in range(2))
    assert json.dumps(one.body) == json.dumps(other.body)
    assert one.body["user"] == "harquel"
    assert "temperature" not in json.dumps(one.body)
    assert ("n%2F1" in one.path) is (protocol == "generate-content")
    assert any(mark in json.dumps(one.body) for mark in ("reasoning_effort", "budget_tokens", "thinkingBudget"))
    assert KEY in "".join(one.headers.values())
    assert KEY not in json.dumps(one.body)
    named = profile("http://x.example", "n", protocol, system="developer", cached=True)
    told = json.dumps(WIRES[protocol].write(named, ASKED, None).body)
    assert ("developer" in told) is (protocol == "chat-completions")
    assert ("cache_control" in told) is (protocol == "messages")


DEMO: list[dict[str, Any]] = yaml.safe_load((Path(__file__).parents[1] / "data" / "questions.yaml").read_text())


@pytest.mark.parametrize("stream", [True, False], ids=["streamed", "whole"])
@pytest.mark.parametrize("protocol", PROTOCOLS)
def test_the_demo_is_answered_in_each_protocol(
    make: Make, ferries: Path, url: str, protocol: ProtocolName, stream: bool
) -> None:
    shared = SharedModel(HttpModel(profile(url, "careful", protocol, stream=stream, structured=True)), 8)
    broken = SharedModel(HttpModel(profile(url, "trouble-cut-off", protocol, stream=stream)), 8)
    source = replace(make(Chain([broken, shared], DRAFT)), reader=Chain([shared], READING))
    plain = SharedModel(HttpModel(profile(url, "careful", "chat-completions")), 8)
    usual = replace(make(Chain([plain])), reader=Chain([plain]))
    for case in DEMO:
        inquiry, like = ask(source, case["question"]), ask(usual, case["question"])
        assert inquiry.answer is not None, (case["question"], inquiry.problem)
        assert like.answer is not None
        assert (inquiry.answer.table.rows, inquiry.trust) == (like.answer.table.rows, like.trust), case["question"]
        assert len(inquiry.answer.table.rows) == len(expected(ferries, case["sql"])), case["question"]
        drafted = inquiry.attempts[-1].draft
        assert drafted is not None
        assert drafted.model == "careful"
    assert broken.breaker.look().state == "open"


@pytest.mark.parametrize("protocol", PROTOCOLS)
def test_a_prompt_that_is_too_long_is_put_together_anew_with_less(make: Make, url: str, protocol: ProtocolName) -> None:
    told: list[int] = []

    class Noting(Unwatched):
        def durable(self, event: Event) -> None:
            if isinstance(event.what, events.Briefed):
                told.append(event.what.tokens)

    model = Chain([SharedModel(HttpModel(profile(url, "trouble-reads-2500", protocol)), 8)], DRAFT)
    inquiry = ask(make(model), "How many sailings were cancelled in August 2026?", Noting())
    assert inquiry.answer is not None, inquiry.problem
    assert inquiry.answer.table.rows == [[12]]
    assert len(told) > 1
    assert told[-1] < told[0]
    tiny = Chain([SharedModel(HttpModel(profile(url, "trouble-reads-9", protocol)), 8)], DRAFT)
    ended = ask(make(tiny), "How many sailings were cancelled in August 2026?")
    assert (ended.outcome, ended.problem and ended.problem.type) == ("failed", "model-unusable")
    assert ended.problem is not None
    assert "limits.prompt_tokens" in ended.problem.hint


def test_of_a_reply_that_was_cut_off_only_what_was_closed_is_taken(make: Make, url: str) -> None:
    model = Chain([SharedModel(HttpModel(profile(url, "trouble-length", "messages")), 8)], DRAFT)
    inquiry = ask(make(model), "How many sailings were cancelled in August 2026?")
    assert inquiry.outcome == "failed"
    assert {f.rule for a in inquiry.attempts for f in a.findings} == {"unusable-reply"}
    cut = "SELECT COUNT(*) FROM sailing"
    assert isinstance(take_apart(cut), SqlReply)
    assert isinstance(take_apart(cut, cut=True), NoSqlReply)
    assert isinstance(take_apart(f'{{"sql": "{cut}"}} and so', cut=True), SqlReply)
