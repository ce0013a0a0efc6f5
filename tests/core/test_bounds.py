"""Everything is bounded: attempts, the clock of the whole inquiry, and a cancellation at any point."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from harquel.core.domain.events import Event
from harquel.core.sandbox import Sandbox
from harquel.testing.scripted import Scripted
from harquel.testing.sources import Recorder, ask, demo_policy, demo_sandbox, demo_source
from tests.core.conftest import Make
from tests.core.test_language_model import hangs, server

QUESTION = "Which five routes earned most this year?"
STEPS = ("briefed", "prompted", "replied", "ruled", "planned", "ran")


@pytest.fixture(scope="module")
def sandbox(ferries: Path) -> Iterator[Sandbox]:
    made = demo_sandbox(ferries)
    yield made
    made.close()


class StopsAfter(Recorder):
    """Asks for a stop once an event of a kind was told."""

    def __init__(self, kind: str) -> None:
        super().__init__()
        self.kind, self.stop = kind, False

    def durable(self, event: Event) -> None:
        super().durable(event)
        self.stop = self.stop or event.kind == self.kind

    def cancelled(self) -> bool:
        return self.stop


@pytest.mark.parametrize("kind", STEPS)
def test_a_stop_at_any_step_ends_it_there(kind: str, ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    watcher = StopsAfter(kind)
    inquiry = ask(demo_source(ferries, model_url, sandbox), QUESTION, watcher)
    assert (inquiry.state, inquiry.outcome, inquiry.answer) == ("ended", "cancelled", None)
    assert watcher.events[-1].kind == kind


@pytest.mark.parametrize("attempts", [1, 2])
def test_attempts_are_bounded_by_the_policy(attempts: int, ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    policy = demo_policy(attempts=attempts)
    source = demo_source(ferries, model_url, sandbox, model="careless-1.0-invented-column", policy=policy)
    inquiry = ask(source, QUESTION)
    assert len(inquiry.attempts) == attempts
    assert inquiry.outcome == ("failed" if attempts == 1 else "answered")


def test_more_than_four_attempts_cannot_be_set() -> None:
    with pytest.raises(ValueError, match="less than or equal to 4"):
        demo_policy(attempts=5)


def test_one_clock_runs_for_the_whole_inquiry(ferries: Path, sandbox: Sandbox) -> None:
    with server([hangs]) as (silent, _):
        source = demo_source(ferries, silent, sandbox, policy=demo_policy(inquiry_s=0.3))
        # The first scan is no part of what is measured.
        source.catalog(lambda: False)
        started = time.monotonic()
        inquiry = ask(source, QUESTION)
    assert inquiry.outcome == "failed"
    assert inquiry.problem is not None
    assert inquiry.problem.hint
    assert "limits.inquiry_s" in inquiry.problem.hint
    assert time.monotonic() - started < 10


def test_the_times_add_up(ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    t = ask(demo_source(ferries, model_url, sandbox), QUESTION).timings
    assert t.total_ms == pytest.approx(t.own_ms + t.model_ms + t.database_ms + t.queued_ms, abs=0.1)
    assert t.own_ms >= t.briefing_ms + t.prompt_ms + t.guard_ms + t.review_ms + t.answer_ms - 0.1


def test_the_story_is_told_in_order_and_texts_are_kept_apart(ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    watcher = Recorder()
    ask(demo_source(ferries, model_url, sandbox), QUESTION, watcher)
    assert [e.kind for e in watcher.events] == [
        "briefed",
        "prompted",
        "replied",
        "ruled",
        "found",
        "planned",
        "ruled",
        "ran",
        "found",
    ]
    for event in watcher.events:
        facts = repr(dict(event.facts))
        assert QUESTION not in facts
        assert "SELECT" not in facts


def test_a_failure_names_what_ended_it_and_not_a_doubt(make: Make) -> None:
    """Doubts remain on a draft that the database turned down in the end: they are not why there is no answer."""
    draft = "SELECT SUM(DISTINCT id) AS n FROM sailing WHERE ABS(-9223372036854775807 - id) > 0"
    source = make(Scripted(draft))
    found = ask(source, "How many sailings were cancelled in May 2026?")
    assert found.outcome == "failed"
    assert found.problem is not None
    assert "integer overflow" in found.problem.title
    assert any(a.findings for a in found.attempts)
