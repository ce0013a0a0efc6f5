"""Several waits at the same time, so that nobody waits for one after the other."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from typing import Final, TypeVar

from harquel.core.errors import CoreError

T = TypeVar("T")
_MOST: Final = 512
"""Threads, which come as they are needed and stay: to begin one takes two changes between busy ones."""


class _Threads:
    def __init__(self) -> None:
        self.begin()
        # Those of the process that one was forked from are not there.
        os.register_at_fork(after_in_child=self.begin)

    def begin(self) -> None:
        self.pool = ThreadPoolExecutor(_MOST, "together")


_threads = _Threads()


def together(calls: Sequence[Callable[[], T]]) -> list[T | CoreError]:
    """What each came to, in their order, once all have ended: none loses its result by the fault of another.

    For what waits, not for what computes, nor for what calls this in its turn: each but the first has a thread of its
    own.
    """
    if len(calls) < 2:
        return [_made(call) for call in calls]
    # One of them by whoever asks, who waits anyway.
    others = [_threads.pool.submit(_made, call) for call in calls[1:]]
    try:
        first = _made(calls[0])
    finally:
        wait(others)
    return [first, *(other.result() for other in others)]


def _made(call: Callable[[], T]) -> T | CoreError:
    try:
        return call()
    except CoreError as error:
        return error
