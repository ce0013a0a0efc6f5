"""Several waits at the same time: each in its place, none lost by the fault of another."""

from __future__ import annotations

import threading
from functools import partial

import pytest

from harquel.core.errors import CoreError, SandboxError
from harquel.core.together import together


def test_all_are_under_way_before_any_ends_and_come_in_their_order() -> None:
    barrier = threading.Barrier(4)

    def meets(number: int) -> int:
        barrier.wait(10)
        return number

    assert together([partial(meets, n) for n in range(4)]) == [0, 1, 2, 3]
    assert together([]) == []


def test_the_first_is_made_by_whoever_asks_and_one_alone_starts_no_thread() -> None:
    here = threading.get_ident()
    assert together([threading.get_ident]) == [here]
    first, other = together([threading.get_ident, threading.get_ident])
    assert (first == here, other == here) == (True, False)


def test_an_error_of_the_family_is_what_one_came_to() -> None:
    def fails(error: Exception) -> int:
        raise error

    slow = SandboxError("slow", "time")
    found = together([partial(fails, slow), lambda: 7, partial(fails, CoreError("gone", "Look."))])
    assert found[:2] == [slow, 7]
    assert isinstance(found[2], CoreError)
    assert together([partial(fails, slow)]) == [slow]


def test_a_mistake_of_ours_is_none_of_the_family_and_comes_out_once_all_have_ended() -> None:
    ended: list[str] = []

    def broken() -> None:
        raise ZeroDivisionError

    for calls in ([broken, partial(ended.append, "a")], [partial(ended.append, "b"), broken]):
        with pytest.raises(ZeroDivisionError):
            together(calls)
    assert sorted(ended) == ["a", "b"]
