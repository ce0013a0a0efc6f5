"""One conductor served from the job to its result, by a conductor that the test plays at the other end of the pipe."""

from __future__ import annotations

import random
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from typing import Any

import pytest

from harquel.contract import events
from harquel.core.domain.events import Unwatched
from harquel.core.errors import Cancelled, ComputingError, CoreError, SandboxError, SourceError
from harquel.service.conductors import attend as attending
from harquel.service.conductors import messages as say
from harquel.service.conductors.attend import _AWAY_S, Broke, Lost, Turn, Turns, attend

MODEL = say.Model(name="careful", prompt_price=0, completion_price=0)
JOB = say.Job(kind="review", source="ferries", lives=1, engine="sqlite", described=say.Kept(token=1), model=MODEL,
              second=None, reader=None, chars_per_token=4.0)  # fmt: skip
Play = Callable[[Connection], None]


class Desk:
    """Says what it is told to, and remembers what it was asked."""

    def __init__(self, *replies: say.Reply) -> None:
        self.replies, self.asked, self.told = list(replies), list[Any](), list[Any]()

    def answer(self, wanted: Any) -> tuple[say.Reply, bytes | None]:
        self.asked.append(wanted)
        return self.replies.pop(0), b"a body" if isinstance(wanted, say.WantExamples) else None

    def record(self, message: say.Told) -> None:
        self.told.append(message.what)


class Conductor:
    """The end of the pipe that the service holds."""

    def __init__(self, line: Connection) -> None:
        self.line, self.tired = line, False

    def rest(self) -> None:
        self.tired = True


class Stopped(Unwatched):
    """Wants nothing any more."""

    def cancelled(self) -> bool:
        return True


@pytest.fixture
def served() -> Iterator[Callable[..., bytes]]:
    """Attends a conductor whose part is played in a thread."""
    pipes: list[Connection] = []
    with ThreadPoolExecutor(2) as threads:

        def serve(
            play: Play, desk: Desk | None = None, watcher: Any = None, limit_s: float = 30, turn: Turn | None = None
        ) -> bytes:
            ours, theirs = Pipe()
            pipes.extend((ours, theirs))

            def played() -> None:
                assert say.receive_down(theirs) == JOB
                play(theirs)

            done = threads.submit(played)
            try:
                return attend(
                    Conductor(ours), desk or Desk(), (JOB, ()), watcher or Unwatched(), limit_s,  # type: ignore[arg-type]
                    turn or Turn(Turns(1, 9)),
                )  # fmt: skip
            finally:
                done.result(timeout=20)

        yield serve
        for pipe in pipes:
            pipe.close()


def ends_with(message: say.Done | say.Failed, body: bytes | None = None) -> Play:
    return lambda line: say.send(line, message, body)


def test_what_is_asked_is_answered_what_is_told_is_recorded(
    served: Callable[..., bytes],
) -> None:
    desk, heard = Desk(say.Reply(value="GRANT", took_ms=1), say.Reply(value=3)), list[Any]()

    def play(line: Connection) -> None:
        steps = [say.Told(what=events.Prompted(number=1, model=name), texts={}) for name in ("careful", "other")]
        say.send(line, say.Steps(told=tuple(steps)))
        say.send(line, say.WantGrant(table="vessel"))
        heard.append(say.receive_down(line))
        say.send(line, say.WantExamples())
        heard.extend((say.receive_down(line), say.receive_body(line)))
        say.send(line, say.Done(), b'{"a": 1}')

    assert served(play, desk) == b'{"a": 1}'
    assert [type(a) for a in desk.asked] == [say.WantGrant, say.WantExamples]
    assert [t.model for t in desk.told] == ["careful", "other"]
    assert (heard[0].value, heard[1].value, heard[2]) == ("GRANT", 3, b"a body")


@pytest.mark.parametrize(("failed", "error", "said"), [
    (say.Failed(error="SourceError", message="gone", hint="Look."), SourceError, "gone"),
    (say.Failed(error="SandboxError", message="slow", fault="time"), SandboxError, "slow"),
    # A name that is none of the family is no way to make something else.
    (say.Failed(error="SystemExit", message="out"), CoreError, "out"),
])  # fmt: skip
def test_an_error_of_the_family_comes_out_as_it_was(
    served: Callable[..., bytes], failed: say.Failed, error: type[CoreError], said: str
) -> None:
    with pytest.raises(Broke) as caught:
        served(ends_with(failed))
    assert type(caught.value.error) is error
    assert (str(caught.value.error), getattr(caught.value.error, "hint", None)) == (said, failed.hint)


def test_a_mistake_of_ours_is_told_with_its_place_and_no_memory_is_no_mistake(served: Callable[..., bytes]) -> None:
    with pytest.raises(Broke) as caught:
        served(ends_with(say.Failed(error="", message="KeyError", where="in line 7")))
    assert "KeyError in a conductor\nin line 7" in str(caught.value.error)
    with pytest.raises(ComputingError) as short:
        served(ends_with(say.Failed(error="", message="MemoryError")))
    assert short.value.fault == "memory"


def test_one_that_is_gone_is_lost_whenever_that_is(served: Callable[..., bytes]) -> None:
    def closes_at_once(line: Connection) -> None:
        line.close()

    def closes_before_the_body(line: Connection) -> None:
        say.send(line, say.Done())
        line.close()

    for play in (closes_at_once, closes_before_the_body):
        with pytest.raises(Lost):
            served(play)


def test_one_that_nobody_wants_any_more_may_still_end_by_itself_but_not_compute_on(
    served: Callable[..., bytes], monkeypatch: pytest.MonkeyPatch
) -> None:
    def hears(line: Connection) -> None:
        assert say.receive_down(line) == say.Stop()
        say.send(line, say.Failed(error="Cancelled", message="stopped"))

    with pytest.raises(Broke) as caught:
        served(hears, watcher=Stopped())
    assert type(caught.value.error) is Cancelled
    monkeypatch.setattr(attending, "_HEARS_S", 0.2)
    ended = threading.Event()
    with pytest.raises(Cancelled, match="it was computing"):
        served(lambda _: ended.set(), watcher=Stopped())
    assert ended.is_set()


def test_one_that_says_nothing_is_ended_and_one_that_computes_long_lets_others_first(
    served: Callable[..., bytes], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(attending, "_GRACE_S", 0.1)
    with pytest.raises(ComputingError) as caught:
        served(lambda _: None, limit_s=0.1)
    assert caught.value.fault == "time"
    monkeypatch.setattr(attending, "_LONG_S", 0.1)
    monkeypatch.setattr(attending, "_GRACE_S", 60.0)
    turns, others = Turns(1, 9), threading.Event()

    def computes(line: Connection) -> None:
        # Only once somebody else has had a turn meanwhile.
        assert others.wait(15)
        say.send(line, say.Done(), b"{}")

    def waits() -> None:
        time.sleep(0.05)
        other = Turn(turns)
        other.take()
        others.set()
        other.give()

    thread = threading.Thread(target=waits)
    thread.start()
    assert served(computes, turn=Turn(turns)) == b"{}"
    thread.join()
    # Whatever happened, the turn was given back, once.
    assert turns._free == 1


def test_who_has_begun_computes_before_those_who_have_not() -> None:
    turns, order = Turns(1, 9), []
    first, begun, new = Turn(turns), Turn(turns), Turn(turns)
    begun.take()
    begun.give()
    first.take()

    def compute(turn: Turn, name: str) -> None:
        turn.take()
        order.append(name)
        turn.end()

    threads = [
        threading.Thread(target=compute, args=(new, "new")),
        threading.Thread(target=compute, args=(begun, "begun")),
    ]
    for thread in threads:
        thread.start()
        time.sleep(0.05)
    first.end()
    for thread in threads:
        thread.join(5)
    assert order == ["begun", "new"]
    # Waiting to begin is nobody's work; waiting in between is.
    assert new.waited_s > 0.05
    assert begun.waited_s < 0.05


def test_others_begin_once_those_who_are_at_it_wait_long_or_have_ended() -> None:
    turns = Turns(3, 2)
    one, two, three, four = (Turn(turns) for _ in range(4))
    one.take()
    two.take()
    began: list[float] = []

    def begin(turn: Turn) -> None:
        turn.take()
        began.append(time.monotonic())

    threads = [threading.Thread(target=begin, args=(turn,)) for turn in (three, four)]
    for thread in threads:
        thread.start()
    time.sleep(0.2)
    # There is a turn left, and two are at it.
    assert began == []
    one.give()
    given = time.monotonic()
    threads[0].join(5)
    threads[1].join(0.2)
    assert len(began) == 1
    assert began[0] - given > _AWAY_S / 2
    two.end()
    for thread in threads:
        thread.join(5)
    assert len(began) == 2
    for turn in (one, three, four):
        turn.end()
    assert turns._away == {}


def test_whatever_the_order_turns_come_back_and_no_more_compute_than_may() -> None:
    turns, at_once, most = Turns(2, 3), 0, 0
    lock = threading.Lock()

    def work(seed: int) -> None:
        nonlocal at_once, most
        turn, chance = Turn(turns), random.Random(seed)
        for _ in range(chance.randint(1, 6)):
            turn.take()
            with lock:
                at_once += 1
                most = max(most, at_once)
            time.sleep(chance.random() / 200)
            with lock:
                at_once -= 1
            turn.give()
            time.sleep(chance.random() / 200)
        turn.end()

    threads = [threading.Thread(target=work, args=(seed,)) for seed in range(24)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    assert not any(thread.is_alive() for thread in threads)
    assert (most, turns._free, turns._begun, turns._away) == (2, 2, 0, {})
