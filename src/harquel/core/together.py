"""Several waits at the same time, so that nobody waits for one after the other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from harquel.core.errors import CoreError

T = TypeVar("T")


def together(calls: Sequence[Callable[[], T]]) -> list[T | CoreError]:
    """What each came to, in their order, once all have ended: none loses its result by the fault of another.

    For what waits, not for what computes: each but the first has a thread of its own.
    """
    if len(calls) < 2:
        return [_made(call) for call in calls]
    # One of them by whoever asks, who waits anyway.
    with ThreadPoolExecutor(len(calls) - 1) as threads:
        others = [threads.submit(_made, call) for call in calls[1:]]
        return [_made(calls[0]), *(other.result() for other in others)]


def _made(call: Callable[[], T]) -> T | CoreError:
    try:
        return call()
    except CoreError as error:
        return error
