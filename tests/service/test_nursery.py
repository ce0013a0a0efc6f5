"""The nursery: forks conductors, says how they ended, is started anew when it is lost, and leaves nothing behind."""

from __future__ import annotations

import os
import resource
import signal
import time
from collections.abc import Iterator
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from pathlib import Path

import pytest

from harquel.service.conductors.nursery import Nursery, NurseryLost

MEMORY = 1024**3


@pytest.fixture
def nursery() -> Iterator[Nursery]:
    made = Nursery(5.0, MEMORY, "")
    yield made
    made.close()


def born(nursery: Nursery) -> tuple[int, Connection]:
    ours, theirs = Pipe()
    with theirs:
        return nursery.new(theirs), ours


def gone(pid: int) -> bool:
    deadline = time.monotonic() + 10
    while Path(f"/proc/{pid}").exists() and time.monotonic() < deadline:
        time.sleep(0.01)
    return not Path(f"/proc/{pid}").exists()


def test_one_that_loses_its_pipe_ends_by_itself(nursery: Nursery) -> None:
    pid, line = born(nursery)
    assert Path(f"/proc/{pid}/status").read_text().splitlines()[6].split() == ["PPid:", str(nursery.pid)]
    line.close()
    assert nursery.ended(pid) == 0
    assert gone(pid)


def test_how_one_ended_is_known(nursery: Nursery) -> None:
    pid, line = born(nursery)
    os.kill(pid, signal.SIGXCPU)
    assert nursery.ended(pid) == -signal.SIGXCPU
    line.close()
    # One that goes on is ended.
    pid, line = born(nursery)
    assert nursery.ended(pid) == -signal.SIGKILL
    assert gone(pid)
    line.close()
    # Of one that is none of its own nothing is known, and nothing is done to it.
    assert nursery.ended(os.getpid()) is None


def test_each_is_bounded_by_the_system(nursery: Nursery) -> None:
    pid, line = born(nursery)
    line.send_bytes(b'{"say":"stop"}')
    deadline = time.monotonic() + 10
    while resource.prlimit(pid, resource.RLIMIT_AS)[0] != MEMORY and time.monotonic() < deadline:
        time.sleep(0.01)
    assert resource.prlimit(pid, resource.RLIMIT_AS) == (MEMORY, MEMORY)
    assert resource.prlimit(pid, resource.RLIMIT_CORE)[0] == 0
    line.close()


def test_a_lost_one_is_started_anew_and_its_children_go_on(nursery: Nursery) -> None:
    pid, line = born(nursery)
    first = nursery.pid
    os.kill(first, signal.SIGKILL)
    other, second = born(nursery)
    assert nursery.pid != first
    assert Path(f"/proc/{pid}").exists()
    assert nursery.ended(pid) is None
    for kept in (line, second):
        kept.close()
    assert gone(pid)
    assert nursery.ended(other) == 0


def test_closed_it_is_gone_with_all_that_came_of_it(nursery: Nursery) -> None:
    found = [born(nursery) for _ in range(3)]
    ours = nursery.pid
    nursery.close()
    for _, line in found:
        line.close()
    assert gone(ours)
    assert all(gone(pid) for pid, _ in found)


def test_what_cannot_be_made_is_said(nursery: Nursery, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("sys.executable", "/bin/false")
    with pytest.raises(NurseryLost, match="no process can be made"):
        born(nursery)
