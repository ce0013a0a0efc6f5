"""Which words of a question a part of its reading stands for."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from .words import EMPTY

_BEFORE_AN_AGE = frozenset("for more less than over at least most open been older".split())


def with_those_before(low: Sequence[str], start: int, end: int, before: Collection[str]) -> tuple[int, ...]:
    """The places from one up to another, and of the words before them that belong to the same."""
    while start and (low[start - 1] in before or low[start - 1] in ("the", "a", "an")):
        start -= 1
    return tuple(range(start, end))


def aged(low: Sequence[str], index: int) -> tuple[int, ...]:
    """ "for more than 30 days", from the place of the number."""
    return with_those_before(low, index, index + 2, _BEFORE_AN_AGE)


def ranking(low: Sequence[str], index: int) -> set[int]:
    """ "worst first", "most frequent first", "highest", from the place of the superlative."""
    if low[index + 1 : index + 2] and low[index + 1] in ("common", "frequent"):
        return ranking(low, index + 1) | {index}
    for end in range(index + 1, min(index + 3, len(low))):
        if low[end] in ("first", "last"):
            return set(range(index, end + 1))
        if low[end] not in EMPTY:
            break
    return {index}
