"""What a conductor tells while it computes: nothing is lost, nothing out of order, nothing kept for long."""

from __future__ import annotations

import random
import signal
import threading
import time
from collections.abc import Iterator
from multiprocessing import Pipe
from multiprocessing.connection import Connection

import pytest

from harquel.contract import events
from harquel.service.conductors import messages as say
from harquel.service.conductors.telling import Telling


@pytest.fixture
def ends() -> Iterator[tuple[Connection, Connection]]:
    """Both ends of a pipe; the alarm clock of this process is as before afterwards."""
    before = signal.getsignal(signal.SIGALRM)
    one, other = Pipe()
    yield one, other
    signal.setitimer(signal.ITIMER_REAL, 0)
    signal.signal(signal.SIGALRM, before)
    one.close()
    other.close()


def step(number: int) -> say.Told:
    return say.Told(what=events.Ran(number=number, row_count=0), texts={"sql": "x" * (number % 900)})


def numbers(frame: object) -> list[int]:
    assert isinstance(frame, say.Steps)
    return [told.what.number for told in frame.told if isinstance(told.what, events.Ran)]


def compute(seconds: float) -> None:
    """Without ever waiting for anything."""
    until = time.perf_counter() + seconds
    while time.perf_counter() < until:
        pass


def test_steps_go_together_and_before_what_is_said_after_them(ends: tuple[Connection, Connection]) -> None:
    telling = Telling(ends[0])
    for number in range(3):
        telling.tell(step(number), at_once=False)
    assert not ends[1].poll()
    telling.send_all()
    say.send(ends[0], say.Done())
    telling.send_all()
    assert numbers(say.receive_up(ends[1])) == [0, 1, 2]
    assert isinstance(say.receive_up(ends[1]), say.Done)
    assert not ends[1].poll()


def test_some_wait_for_no_other(ends: tuple[Connection, Connection]) -> None:
    telling = Telling(ends[0])
    telling.tell(step(1), at_once=False)
    telling.tell(step(2), at_once=True)
    assert numbers(say.receive_up(ends[1])) == [1, 2]
    for number in range(20):
        telling.tell(step(number), at_once=False)
    assert numbers(say.receive_up(ends[1])) == list(range(16))


def test_a_step_is_heard_though_what_comes_after_it_computes_for_ever(ends: tuple[Connection, Connection]) -> None:
    telling = Telling(ends[0])
    for number in (1, 2):
        telling.tell(step(number), at_once=False)
        compute(0.2)
        assert ends[1].poll()
        assert numbers(say.receive_up(ends[1])) == [number]


def test_who_is_gone_disturbs_no_computing(ends: tuple[Connection, Connection]) -> None:
    telling = Telling(ends[0])
    telling.tell(step(1), at_once=False)
    ends[1].close()
    compute(0.1)
    telling.tell(step(2), at_once=False)
    with pytest.raises(OSError, match="pipe"):
        telling.send_all()


def test_whenever_the_clock_rings_all_arrives_once_and_in_order(ends: tuple[Connection, Connection]) -> None:
    chance, heard, asked = random.Random(3), list[int](), list[int]()

    def listen() -> None:
        while not isinstance(frame := say.receive_up(ends[1]), say.Done):
            if isinstance(frame, say.WantGrant):
                asked.append(len(heard))
                assert frame.table == str(len(heard))
            else:
                heard.extend(numbers(frame))

    listener = threading.Thread(target=listen)
    listener.start()
    telling, told = Telling(ends[0]), 0
    signal.siginterrupt(signal.SIGALRM, True)
    while told < 3000:
        # Far more often than ever: in the middle of keeping, of sending, of asking.
        signal.setitimer(signal.ITIMER_REAL, chance.random() / 2000, 0.0003)
        for _ in range(chance.randrange(12)):
            telling.tell(step(told), at_once=chance.random() < 0.1)
            told += 1
        if chance.random() < 0.5:
            telling.send_all()
            say.send(ends[0], say.WantGrant(table=str(told)))
    telling.send_all()
    say.send(ends[0], say.Done())
    listener.join(timeout=20)
    assert heard == list(range(told))
    assert len(asked) > 100
