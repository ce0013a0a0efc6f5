"""Whether a result holds what a control gives, in whatever form: each part of it in one of its ways.

What the control gives and nobody asked for (a figure that only ranks) may be missing, but where both show such figures
they must be the same: an answer does not agree that puts another figure beside the right name.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace
from typing import Any, Final

from harquel.core.answers.agreement import MOST_ROWS, ROUNDED, Agreement, as_fine, columns_of, plain, same_rows
from harquel.core.domain.result import Result
from harquel.core.reading.otherwise import Part, Values

_OF_ONE: Final = 2
"""Decimals that a share of one needs to be held against a share of a hundred."""
_MOST_TRIES: Final = 200
_MOST_CELLS: Final = 500_000
"""Cells that are held against each other: under a second, whatever a result looks like."""

Column = list[Any]


def holds(
    result: Result, parts: Sequence[Part], keys: Collection[int] = (), made: Collection[int] = (),
    least: int = ROUNDED,
) -> Agreement | None:  # fmt: skip
    """What agrees, or None. `keys` are columns of the result whose numbers are no figures, `made` those that are
    worked out, and so tell no groups apart, `least` the decimals that count at least.
    """
    known = columns_of(result) if result.rows else []
    figures = {p for p, c in enumerate(known) if p not in keys and any(isinstance(v, int | float) for v in c)}
    here = _comparable(known, figures, parts)
    needed = [part for part in parts if part.needed]
    if not here or not any(v for part in needed for v in part.ways[0]):
        return None
    found = _found(here, list(parts), keys, made, least)
    if found is not None:
        alone = not figures <= set(found[0])
        return replace(found[1], whole=found[1].whole and not alone, beside=alone)
    found = _found(here, needed, keys, made, least) if len(needed) < len(parts) else None
    # Beside the right names may stand no other figure than ours; without ours, words may still say that it is missing.
    if found is None or figures - set(found[0]):
        return None
    return replace(found[1], whole=False)


def _comparable(here: list[Column], figures: set[int], parts: Sequence[Part]) -> list[Column]:
    """The columns of the result with as many rows as the control has; none where that cannot be, or takes too long."""
    count = len(parts[0].ways[0]) if parts else 0
    if not count or not here or max(count, len(here[0])) > MOST_ROWS:
        return []
    if len(here[0]) > count and any(part.group for part in parts):
        here = _without_nothing(here, figures, count)
    if not here or len(here[0]) != count:
        return []
    return here if count * len(here) * sum(len(part.ways) for part in parts) <= _MOST_CELLS else []


def _without_nothing(here: list[Column], figures: set[int], count: int) -> list[Column]:
    """Without groups of which there is nothing, where that leaves as many rows as the control has groups."""
    rows = [row for row in zip(*here, strict=True) if any(row[p] for p in figures)]
    return [list(column) for column in zip(*rows, strict=True)] if figures and len(rows) == count else here


def _found(
    here: list[Column], parts: list[Part], keys: Collection[int], made: Collection[int], least: int
) -> tuple[list[int], Agreement] | None:
    """In which columns the parts are found. Each figure has one of its own, which is no key; one told on another scale
    is the same figure, and settles no doubt about it.
    """
    fits = [_fitting(part, here, made if part.group else keys if part.figure else (), least) for part in parts]
    if not parts or not all(fits):
        return None
    for chosen in _choices(fits):
        both = list(zip(parts, chosen, strict=True))
        figures = [(p, way is part.ways[0]) for part, (p, way) in both if part.figure]
        told = {p for part, (p, _) in both if not part.figure}
        if len(told.union(p for p, _ in figures)) < len(told) + len(figures):
            continue
        mine, theirs = [here[p] for p, _ in chosen], [_plain(way) for _, way in chosen]
        if same_rows(mine, theirs, False, 1, least):
            in_order = same_rows(mine, theirs, True, 1, least)
            return [p for p, _ in chosen], Agreement(all(as_is for _, as_is in figures), in_order)
    return None


def _fitting(part: Part, here: list[Column], never: Collection[int], least: int) -> list[tuple[int, Values]]:
    """The columns that hold one of its ways, but for those in which it cannot be."""
    return [
        (p, way) for way in part.ways for p, column in enumerate(here)
        if p not in never and same_rows([column], [_plain(way)], False, 1, least)
        # On another scale it says the same only as far as it has the digits to say it.
        and (not part.figure or way is part.ways[0] or as_fine(column, _plain(way), _OF_ONE))
    ]  # fmt: skip


def _choices(fits: list[list[tuple[int, Values]]]) -> Iterator[list[tuple[int, Values]]]:
    """Ways to find each part in a column of the result; a column may stand for two that it tells at once."""
    tried = 0

    def go(chosen: list[tuple[int, Values]]) -> Iterator[list[tuple[int, Values]]]:
        nonlocal tried
        if len(chosen) == len(fits):
            tried += 1
            yield chosen
            return
        for one in fits[len(chosen)]:
            if tried < _MOST_TRIES:
                yield from go([*chosen, one])

    yield from go([])


def _plain(way: Values) -> Column:
    return [plain(v) for v in way]
