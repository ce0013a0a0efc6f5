"""Conductors: the same comes out as without them, and one that is lost costs its own inquiry only."""

from __future__ import annotations

import copy
import os
import signal
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from harquel.core.briefing import TokenGauge
from harquel.core.curation import check_example
from harquel.core.domain.events import Unwatched
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Policy
from harquel.core.domain.record import written
from harquel.core.errors import ComputingError, CoreError, ModelUnreachable, SourceError
from harquel.core.inquiry.conduct import conduct, go_on
from harquel.core.inquiry.review_only import review_sql
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import Completion, Message, ModelProfile
from harquel.core.sandbox import Sandbox
from harquel.service.conductors.desk import Parcels, Shelf
from harquel.service.conductors.pool import Conductors, Limits
from harquel.service.conductors.process import SHELF
from harquel.testing.door import instant
from harquel.testing.scripted import Meets, RunsMeet, Scripted
from harquel.testing.sources import NOW, Recorder, demo_policy, demo_sandbox, demo_source

DOOR = "harquel.testing.door:plant"
QUESTION = "How many sailings were cancelled in August 2026?"
QUESTIONS = (
    QUESTION,
    "Which five customers spent most in 2026?",
    "Delete all bookings of March 2026.",
    "What is the weather like on Mars?",
    "How many bookings were made per month in 2026?",
    "How many trips did the Marrow make yesterday?",
)
Make = Callable[..., Conductors]


@pytest.fixture
def made() -> Iterator[Make]:
    """Makes conductors that are gone when the test is over."""
    kept: list[Conductors] = []

    def make(warm: int = 1, computing_s: float = 10.0, prepare: str = "") -> Conductors:
        conductors = Conductors(warm, Limits(computing_s), prepare)
        conductors.begin()
        kept.append(conductors)
        deadline = time.monotonic() + 30
        while len(conductors.pids()) < warm and time.monotonic() < deadline:
            time.sleep(0.01)
        return conductors

    yield make
    pids = [p for c in kept for p in c.pids()]
    for conductors in kept:
        conductors.close()
    assert not [p for p in pids if Path(f"/proc/{p}").exists()]


@pytest.fixture(scope="module")
def conductors() -> Iterator[Conductors]:
    pool = Conductors(1)
    yield pool
    pool.close()


@pytest.fixture(scope="module")
def flawed() -> Iterator[Conductors]:
    """With the test door, and a second of computing for each job."""
    pool = Conductors(2, Limits(1.0), DOOR)
    yield pool
    pool.close()


@pytest.fixture(scope="module")
def source(ferries: Path, model_url: str) -> Iterator[Source]:
    found = demo_source(ferries, model_url, demo_sandbox(ferries))
    yield found
    workers(found).close()


def workers(source: Source) -> Sandbox:
    assert isinstance(source.sandbox, Sandbox)
    return source.sandbox


def inquiry(question: str = QUESTION, key: str = "test") -> Inquiry:
    return Inquiry(id=key, state="working", source="ferries", question=question, asked_by="Ada Brinewell", asked_at=NOW)


def plain(found: Inquiry) -> dict[str, Any]:
    """Without what is another at each run."""
    record = written(found)
    del record["timings"]
    for attempt in record["attempts"]:
        (attempt["run"] or {}).pop("elapsed_ms", None)
    if record["hold"] is not None:
        record["hold"].pop("since")
    return record


def steps(recorder: Recorder) -> list[tuple[str, dict[str, Any], dict[str, str]]]:
    return [(e.kind, {k: v for k, v in e.facts.items() if k != "elapsed_ms"}, dict(e.texts)) for e in recorder.events]


@pytest.mark.parametrize("question", QUESTIONS)
def test_the_same_comes_out_as_without_them(question: str, source: Source, conductors: Conductors) -> None:
    here, there = Recorder(), Recorder()
    # What a model says of its tokens is learnt from: both begin at the same point.
    one = conduct(inquiry(question), replace(source, gauge=TokenGauge()), here, NOW)
    other = conductors.conduct(inquiry(question), replace(source, gauge=TokenGauge()), there, NOW)
    assert plain(other) == plain(one)
    # Through JSON, as the ledger keeps them.
    assert repr(steps(there)).replace("(", "[").replace(")", "]") == repr(steps(here)).replace("(", "[").replace(
        ")", "]"
    )
    times = other.timings
    assert times.total_ms == pytest.approx(times.own_ms + times.model_ms + times.database_ms + times.queued_ms, abs=1)


class Reads(Scripted):
    """Says a reading, as another model than the one that drafts."""

    def __init__(self, reading: str) -> None:
        super().__init__(reading)
        self.profile = ModelProfile("http://reader.example", "reader")

    def complete(self, messages: list[Message], **_: Any) -> Completion:
        assert "You write no SQL" in messages[0]["content"]
        return Completion(self.drafts[0], 3, 2)


def test_a_reading_and_its_control_pass_through(ferries: Path, conductors: Conductors) -> None:
    """And it is the reader that is asked, not the model that drafts."""
    source = demo_source(ferries, "http://127.0.0.1:9/v1", demo_sandbox(ferries))
    reading = '{"rows": "sailing", "figures": [{"figure": "count"}], "only": [{"column": "status", "values": ["X"]}], '
    reading += '"words": "How many sailings"}'
    source = replace(source, model=Scripted("SELECT COUNT(*) AS n FROM sailing"), reader=Reads(reading))
    try:
        one = conduct(inquiry("How many sailings are there?"), source, Unwatched(), NOW)
        other = conductors.conduct(inquiry("How many sailings are there?"), source, Unwatched(), NOW)
        assert plain(other) == plain(one)
        assert other.second_opinion is not None
        assert (other.second_opinion.agrees, other.second_opinion.model, other.trust) == (False, "reader", "caution")
    finally:
        workers(source).close()


class Gone(Scripted):
    def complete(self, *_: Any, **__: Any) -> Completion:
        raise ModelUnreachable("nobody answers", "Look whether it runs.")


def test_two_models_are_asked_at_once_and_each_may_fail_alone(ferries: Path, conductors: Conductors) -> None:
    source = demo_source(ferries, "http://127.0.0.1:9/v1", demo_sandbox(ferries))
    drafts, reads = Scripted("SELECT COUNT(*) AS n FROM sailing"), Reads('{"rows": "sailing", "figures": [{"figure": '
                    '"count"}], "words": "How many sailings"}')  # fmt: skip
    barrier = threading.Barrier(2)
    sandbox = source.sandbox
    # The draft and our own statement run at the same time, too.
    source = replace(source, sandbox=RunsMeet(threading.Barrier(2), sandbox))
    try:
        for model, reader, outcome, said in (
            (Meets(barrier, drafts), Meets(barrier, reads), "answered", "Another statement with the same result"),
            (drafts, Gone(""), "answered", "nobody answers"), (Gone(""), reads, "failed", None),
        ):  # fmt: skip
            made = replace(source, model=model, reader=reader)
            source = replace(source, sandbox=sandbox)
            found = conductors.conduct(inquiry("How many sailings are there?"), made, Unwatched(), NOW)
            assert (found.outcome, found.second_opinion and found.second_opinion.said) == (outcome, said)
            if found.problem is not None:
                assert (found.problem.title, found.problem.hint) == ("nobody answers", "Look whether it runs.")
        broken = Scripted("SELECT ABS(-9223372036854775807 - 1) AS n FROM sailing", "SELECT COUNT(*) AS n FROM sailing")
        mended = conductors.conduct(
            inquiry("How many sailings are there?"), replace(source, model=broken, reader=reads), Unwatched(), NOW
        )
        assert (mended.trust, [a.error for a in mended.attempts]) == ("clear", ["integer overflow", None])
    finally:
        workers(source).close()


def test_a_second_opinion_a_hold_and_a_release_pass_through(ferries: Path, conductors: Conductors) -> None:
    wanted = {"approval": {"always": True}, "review": {"second_opinion": "always"}}
    policy = Policy.model_validate(demo_policy().model_dump() | wanted)
    source = demo_source(ferries, "http://127.0.0.1:9/v1", demo_sandbox(ferries), policy=policy)
    counts = "SELECT COUNT(*) AS sailings FROM sailing WHERE status = 'cancelled'"
    source = replace(source, model=Scripted(counts), second=Scripted("SELECT COUNT(*) AS n FROM sailing"))
    try:
        for deed in (conduct, conductors.conduct):
            held = deed(inquiry("How many sailings were cancelled?"), source, Unwatched(), NOW)
            assert (held.state, held.hold is not None) == ("held", True), held
        ada = Person("Ada Brinewell")
        one = go_on(copy.deepcopy(held), source, Unwatched(), NOW, ada, "Rhea Quist")
        other = conductors.conduct(copy.deepcopy(held), source, Unwatched(), NOW, ada, "Rhea Quist")
        assert plain(one) == plain(other)
        assert other.second_opinion is not None
        assert other.second_opinion.said
    finally:
        workers(source).close()


def test_reviews_and_examples_pass_through(source: Source, conductors: Conductors) -> None:
    for sql in ("SELECT COUNT(*) FROM sailing", "DELETE FROM sailing", "SELECT name, email FROM person", "SELEC 1"):
        one, other = (
            review_sql(sql, source, now=NOW),
            conductors.review(sql, source, NOW),
        )
        assert other == one
        checked = conductors.check(sql, source)
        assert (checked.state, checked.tables) == (check_example(sql, source).state, check_example(sql, source).tables)


def test_errors_come_back_as_what_they_were(source: Source, conductors: Conductors) -> None:
    def away(_: Any) -> Any:
        raise SourceError("it is away", "Look for it.")

    gone = replace(source, catalog=away)
    ended = conductors.conduct(inquiry(), gone, Unwatched(), NOW)
    assert ended.problem is not None
    assert (ended.problem.type, ended.problem.title, ended.problem.hint) == (
        "source-unreachable", "it is away", "Look for it.",
    )  # fmt: skip
    with pytest.raises(SourceError, match="it is away"):
        conductors.review("SELECT 1", gone, NOW)


def test_what_cannot_be_put_on_record_is_not_answered(source: Source, conductors: Conductors) -> None:
    class Full(Recorder):
        def durable(self, event: Any) -> None:
            if len(self.events) == 2:
                raise CoreError("The ledger cannot be written.", "Check the disk.")
            super().durable(event)

    ended = conductors.conduct(inquiry(), source, Full(), NOW)
    assert (ended.outcome, ended.answer) == ("failed", None)
    assert ended.problem is not None
    assert ended.problem.title == "The ledger cannot be written."


def test_a_conductor_holds_nothing_but_its_pipe(source: Source, made: Make) -> None:
    secret = os.open("/dev/zero", os.O_RDONLY)
    os.set_inheritable(secret, True)
    try:
        pool = made()
        assert pool.conduct(inquiry(), source, Unwatched(), NOW).outcome == "answered"
        (pid,) = pool.pids()
        opened = {int(d.name): os.readlink(d) for d in Path(f"/proc/{pid}/fd").iterdir()}
        beyond = [target for number, target in opened.items() if number > 2]
        assert len(beyond) == 1, opened
        assert beyond[0].startswith("socket:")
        assert "ferries.db" not in Path(f"/proc/{pid}/maps").read_text()
    finally:
        os.close(secret)


@pytest.mark.parametrize("step", ["reply", "guard", "review", "memory"])
def test_what_computes_for_ever_ends_its_own_inquiry_only(step: str, source: Source, flawed: Conductors) -> None:
    pool = flawed
    found: list[Inquiry] = []
    lost = threading.Thread(
        target=lambda: found.append(pool.conduct(inquiry(key="lost"), source, Unwatched(), instant(step)))
    )
    lost.start()
    for _ in range(3):
        assert pool.conduct(inquiry(), source, Unwatched(), NOW).outcome == "answered"
    lost.join(60)
    (ended,) = found
    assert (ended.state, ended.outcome, ended.problem.type if ended.problem else "") == (
        "ended", "failed", "too-much-computing",
    )  # fmt: skip
    # What was told before it was lost is kept: one attempt, and what the model was asked.
    assert len(ended.attempts) == 1
    assert ended.usage.calls == 1
    assert ended.timings.total_ms > 0
    assert pool.conduct(inquiry(), source, Unwatched(), NOW).outcome == "answered"


def test_a_mistake_of_ours_is_told_and_costs_no_process(source: Source, flawed: Conductors) -> None:
    pool = flawed
    assert pool.conduct(inquiry(), source, Unwatched(), NOW).outcome == "answered"
    before = pool.pids()
    ended = pool.conduct(inquiry(), source, Unwatched(), instant("mistake"))
    assert (ended.outcome, ended.problem.type if ended.problem else "") == ("failed", "internal")
    assert pool.pids() == before


def test_cancel_reaches_what_computes(source: Source, made: Make) -> None:
    class Impatient(Recorder):
        def cancelled(self) -> bool:
            return any(e.kind == "replied" for e in self.events)

    pool = made(computing_s=60.0, prepare=DOOR)
    started = time.monotonic()
    ended = pool.conduct(inquiry(), source, Impatient(), instant("guard"))
    assert (ended.outcome, len(ended.attempts)) == ("cancelled", 1)
    assert time.monotonic() - started < 30  # not the minute that it may compute


class Killer(Recorder):
    """Kills a process at a step of the inquiry."""

    def __init__(self, kind: str, pids: Callable[[], list[int]]) -> None:
        super().__init__()
        self._kind, self._pids = kind, pids

    def durable(self, event: Any) -> None:
        super().durable(event)
        if event.kind == self._kind:
            for pid in self._pids():
                os.kill(pid, signal.SIGKILL)


# After each of these it still wants something of us; at the end it may be done before it is killed.
@pytest.mark.parametrize("kind", ["briefed", "replied", "ruled", "planned"])
def test_a_killed_conductor_costs_its_own_inquiry_only(kind: str, source: Source, conductors: Conductors) -> None:
    pool = conductors
    ended = pool.conduct(inquiry(), source, Killer(kind, pool.pids), NOW)
    assert (ended.state, ended.outcome) == ("ended", "failed")
    assert ended.problem is not None
    assert (ended.problem.type, bool(ended.problem.hint)) == ("conductor-lost", True)
    assert pool.conduct(inquiry(), source, Unwatched(), NOW).outcome == "answered"


def test_one_that_was_killed_while_it_had_nothing_to_do_costs_nothing(source: Source, conductors: Conductors) -> None:
    pool = conductors
    for _ in range(2):
        assert pool.conduct(inquiry(), source, Unwatched(), NOW).outcome == "answered"
        for pid in pool.pids():
            os.kill(pid, signal.SIGKILL)


def test_a_lost_nursery_costs_nothing(source: Source, made: Make) -> None:
    pool = made(warm=1)
    killer = Killer("replied", lambda: [pool.nursery.pid])
    assert pool.conduct(inquiry(), source, killer, NOW).outcome == "answered"
    for pid in pool.pids():
        os.kill(pid, signal.SIGKILL)
    assert pool.conduct(inquiry(), source, Unwatched(), NOW).outcome == "answered"


def test_reviews_that_are_lost_say_so(source: Source, conductors: Conductors) -> None:
    pool = conductors
    pool.review("SELECT 1", source, NOW)
    pids = pool.pids()
    lost = replace(
        source, catalog=lambda _: [os.kill(p, signal.SIGKILL) for p in pids] and source.catalog(lambda: False)
    )
    with pytest.raises(ComputingError) as raised:
        pool.review("SELECT 1", lost, NOW)
    assert raised.value.fault == "lost"


def test_whoever_waits_too_long_to_have_a_statement_looked_at_is_told_so(
    source: Source, conductors: Conductors, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("harquel.service.conductors.pool._BESIDE_S", 0.2)
    pool, going = conductors, threading.Event()

    def slow(_: Any) -> Any:
        going.wait(20)
        return source.catalog(lambda: False)

    waiting = replace(source, catalog=slow)
    threads = [threading.Thread(target=pool.review, args=("SELECT 1", waiting, NOW)) for _ in range(2)]
    for thread in threads:
        thread.start()
    time.sleep(0.3)
    with pytest.raises(ComputingError) as raised:
        pool.review("SELECT 1", source, NOW)
    assert raised.value.fault == "busy"
    going.set()
    for thread in threads:
        thread.join(20)
    assert pool.review("SELECT 1", source, NOW).verdict == "run"


def test_things_with_versions_go_over_once_and_both_sides_forget_the_same(source: Source) -> None:
    parcels, shelf = Parcels(), Shelf()
    token, body = parcels.described(source.describer)
    assert shelf.kept((token, body))[1] == body
    assert shelf.kept(parcels.described(source.describer)) == (shelf.kept((token, body))[0], None)
    for other in range(1000, 1000 + SHELF):
        assert shelf.kept((other, b""))[0].sent
    assert shelf.kept((token, body))[0].sent  # the oldest was forgotten
