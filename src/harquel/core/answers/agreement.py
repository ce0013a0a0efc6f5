"""Whether two results say the same: as sets of rows, whatever the order, the names of columns and the rounding."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace
from itertools import chain, islice
from typing import Any, Final

from harquel.core.domain.result import Result
from harquel.core.language.say import said_as

MOST_ROWS: Final = 5000
_MOST_PAIRINGS: Final = 200
_RELATIVE: Final = 1e-6
_MOST_DIGITS: Final = 9
ROUNDED: Final = 1
UNROUNDED: Final = 4
"""Decimals that are compared at least where somebody may have rounded, and where nobody has: an engine that divides
whole numbers gives so many by itself."""
_MOST_NAMES: Final = 2
"""Names that may stand in two columns of a row."""
_MOST_JOINED: Final = 60
"""Ways to put columns together that are tried; of wide or long results none is."""
_NARROW: Final = 12
_MOST_SHOWN: Final = 60
"""Characters of a text that stand in a difference."""
_MIDNIGHT: Final = re.compile(r"(\d{4}-\d\d-\d\d)[ T]00:00(:00(\.0+)?)?")
_DAY: Final = 10
"""Characters of a day."""
_INSTANT: Final = re.compile(r"(\d{4}-\d\d-\d\d)T(\d\d:\d\d.*)")

_Apart = AbstractSet[tuple[int, int]]
"""Columns, by their identity, that are not the same whatever they hold."""
Cell = tuple[int, float, str]
"""A value as it is compared: rank of its kind, number, text."""


@dataclass(frozen=True)
class Agreement:
    """That two results hold the same rows, and how much of the first one that speaks for."""

    whole: bool
    """Whether each figure of the first stands in the other, too: one that is there alone is vouched for by nobody, and
    that two find nothing says little about why."""
    in_order: bool
    """Whether the rows come in the same order."""
    beside: bool = False
    """Whether the first shows a figure that the other has not."""


def agree(one: Result, other: Result) -> bool:
    """Whether each row of one is in the other as often; see `agreement`."""
    return agreement(one, other) is not None


def agreement(
    one: Result, other: Result, keys: Collection[int] = (), needed: Collection[int] = (), exact: bool = False,
    apart: Collection[tuple[int, int]] = (), least: int = ROUNDED,
) -> Agreement | None:  # fmt: skip
    """What agrees, where each row of one is in the other as often; None where that is not so.

    A result may have columns that the other has not: the narrower one must be found in the wider. Figures are
    compared with the decimals of the one that was rounded more. Of results beyond MOST_ROWS only the beginnings
    could be compared, so they count as different unless they are equal. `keys` are columns of the first whose
    numbers are no figures, `needed` those of the second that must be in the first; `exact`: the second was never
    rounded, so that one decimal of its is no reason to overlook two of the first. `apart` are columns of the first and
    of the second that are not the same whatever they hold: a key and a figure. `least` are the decimals that count at
    least: UNROUNDED where no statement rounds anything.
    """
    if len(one.rows) != len(other.rows):
        return None
    if len(one.rows) > MOST_ROWS:
        return Agreement(True, True) if one.rows == other.rows else None
    here, there = columns_of(one), columns_of(other)
    figures = {p for p, c in enumerate(here) if p not in keys and any(isinstance(v, int | float) for v in c)}
    kept_apart = {(id(here[p]), id(there[q])) for p, q in apart if p < len(here) and q < len(there)}
    found = _paired(here, there, figures, needed, exact, kept_apart, least)
    # A name may stand in one column here and in two there, first and last.
    if found is None and max(len(here), len(there)) <= _NARROW and len(one.rows) <= MOST_ROWS // 10:
        found = _put_together(here, there, figures, needed, kept_apart, least)
    nothing = not any(v for column in here for v in column)
    return replace(found, whole=False) if found is not None and nothing else found


def places_of(one: Result, other: Result) -> dict[int, int]:
    """The columns of the first by those of the second that hold the same, where the two agree.

    What is left alone on either side is the same in another form: a name for a key, euros for cents.
    """
    here, there = columns_of(one), columns_of(other)
    # A list and what it sums up to agree, and have no column in common.
    if len(one.rows) != len(other.rows) or max(len(here), len(there)) > _NARROW or len(one.rows) > MOST_ROWS // 10:
        return {}
    found: dict[int, int] = {}
    for place, column in enumerate(there):
        free = sorted((n for n in range(len(here)) if n not in found.values()), key=lambda n: n != place)
        same = next((n for n in free if same_rows([here[n]], [column])), None)
        if same is not None:
            found[place] = same
    # The same values in other rows are another column.
    if not same_rows([here[n] for n in found.values()], [there[place] for place in found]):
        return {}
    alone = [n for n in range(len(here)) if n not in found.values()], [n for n in range(len(there)) if n not in found]
    if len(alone[0]) == len(alone[1]) == 1 and _alike(here[alone[0][0]], there[alone[1][0]]):
        found[alone[1][0]] = alone[0][0]
    return found


def _alike(one: Sequence[Any], other: Sequence[Any]) -> bool:
    """Whether two columns can be the same in another form: as many figures, and where there are none no more besides.

    What is empty here has a word there: "unknown".
    """
    figures = [sum(isinstance(v, int | float) for v in column) for column in (one, other)]
    return figures[0] == figures[1] and (figures[0] == 0 or _at_a_glance(one, other))


def _put_together(
    here: list[list[Any]], there: list[list[Any]], figures: set[int], needed: Collection[int], kept_apart: _Apart,
    least: int,
) -> Agreement | None:  # fmt: skip
    """What agrees once two columns with texts that stand side by side are one, here or there."""
    either = chain(
        # Put together they have other places: then nothing may be missing at all.
        (
            (here, apart, figures)
            for apart in islice(_joined(there), _MOST_JOINED)
            if not needed or len(here) >= len(apart)
        ),
        ((apart, there, {*range(len(apart))}) for apart in islice(_joined(here), _MOST_JOINED)),
    )
    return next(
        (a for a in (_paired(*way, kept_apart=kept_apart, least=least) for way in either) if a is not None), None
    )


def _paired(
    here: list[list[Any]], there: list[list[Any]], figures: set[int], needed: Collection[int] = (), exact: bool = False,
    kept_apart: _Apart = frozenset(), least: int = 1,
) -> Agreement | None:  # fmt: skip
    turned = len(here) > len(there)
    narrow, wide = (there, here) if turned else (here, there)
    whole = (0 if turned else 1) if exact else None
    ours = {(b, a) for a, b in kept_apart} if turned else kept_apart
    for places in _pairings(narrow, wide, whole, ours, least):
        chosen = [wide[p] for p in places]
        missing = not turned and not set(needed) <= set(places)
        if not missing and same_rows(narrow, chosen, exact=whole, least=least):
            alone = turned and not figures <= set(places)
            return Agreement(not alone, same_rows(narrow, chosen, True, whole, least), alone)
    return None


def _joined(columns: list[list[Any]], start: int = 0, names: int = _MOST_NAMES) -> Iterator[list[list[Any]]]:
    """The columns with texts that stand side by side as one, either way round; one such pair or several."""
    for place in range(start, len(columns) - 1):
        left, right = columns[place], columns[place + 1]
        if not names or not all(v is None or isinstance(v, str) for v in (*left, *right)):
            continue
        for between, first, last in ((" ", left, right), (" ", right, left), (", ", right, left)):
            whole = [None if a is None or b is None else f"{a}{between}{b}" for a, b in zip(first, last, strict=True)]
            apart = [*columns[:place], whole, *columns[place + 2 :]]
            yield apart
            yield from _joined(apart, place + 1, names - 1)


def difference(one: Result, other: Result) -> str:
    """What a second result has that the first has not, in words for a caveat; the first is the one that is shown."""
    if len(one.rows) == len(other.rows) == 1 and len(one.rows[0]) == len(other.rows[0]) == 1:
        return said_as("differs-figure", other=_shown(other.rows[0][0]), one=_shown(one.rows[0][0]))
    if len(one.rows) != len(other.rows):
        return said_as("differs-rows", n=len(other.rows), other=f"{len(other.rows):,}", one=f"{len(one.rows):,}")
    return said_as("differs-values", n=len(other.rows), other=f"{len(other.rows):,}")


def _shown(value: Any) -> str:
    if isinstance(value, int | float) and not isinstance(value, bool):
        return f"{value:,}" if isinstance(value, int) else f"{value:,.10g}"
    if value is None:
        return "nothing"
    # A text of the database can be long, and can try to give orders: in quotes that it cannot close.
    text = " ".join(str(value)[: 4 * _MOST_SHOWN].replace("“", "'").replace("”", "'").split())
    return f"“{text[:_MOST_SHOWN]}{'…' if len(text) > _MOST_SHOWN or len(str(value)) > 4 * _MOST_SHOWN else ''}”"


def columns_of(result: Result) -> list[list[Any]]:
    """Its columns, with values as they are compared."""
    return [[plain(row[i]) for row in result.rows] for i in range(len(result.columns))]


def plain(value: Any) -> Any:
    """Decimals come as texts, truths as 0 and 1 from an engine that knows no other; a day is its midnight."""
    if isinstance(value, bool):
        return int(value)
    if isinstance(value, str) and value[:1] in "-0123456789" and not value[1:].strip("0123456789."):
        try:
            return float(value) if "." in value else int(value)
        except ValueError:
            return value
    if isinstance(value, str) and value[4:5] == "-":
        day, instant = _MIDNIGHT.fullmatch(value), _INSTANT.fullmatch(value)
        return day[1] if day else f"{instant[1]} {instant[2]}" if instant else value
    return value


def _digits(column: Sequence[Any]) -> int | None:
    """The decimals that the figures of a column have at most; None where they are whole, nothing or no figures."""
    if not any(isinstance(v, float) and v for v in column):
        return None
    shown = [f"{v:.{_MOST_DIGITS}f}".rstrip("0") for v in column if isinstance(v, float)]
    return max((len(s.partition(".")[2]) for s in shown), default=None)


def _pairings(
    narrow: list[list[Any]], wide: list[list[Any]], exact: int | None, kept_apart: _Apart, least: int
) -> Iterator[list[int]]:
    """Ways to find each column of the narrower result in the wider one, by its values; the likely ones first."""
    fits = [
        [
            p
            for p, c in enumerate(wide)
            if (id(here), id(c)) not in kept_apart and same_rows([here], [c], False, exact, least)
        ]
        for here in narrow
    ]
    if not all(fits):
        return
    given = 0

    def go(chosen: list[int]) -> Iterator[list[int]]:
        nonlocal given
        if len(chosen) == len(narrow):
            given += 1
            yield chosen
            return
        for place in sorted(fits[len(chosen)], key=lambda p: p != len(chosen)):
            if place not in chosen and given < _MOST_PAIRINGS:
                yield from go([*chosen, place])

    yield from go([])


def _at_a_glance(one: Sequence[Any], other: Sequence[Any]) -> bool:
    """Whether two columns hold as many figures and empty values: most that differ do not, and need no sorting."""
    counts = [
        (sum(v is None for v in column), sum(isinstance(v, int | float) for v in column)) for column in (one, other)
    ]
    return counts[0] == counts[1]


def same_rows(
    here: list[list[Any]], there: list[list[Any]], as_they_come: bool = False, exact: int | None = None,
    least: int = ROUNDED,
) -> bool:  # fmt: skip
    """Whether columns in this pairing hold the same rows, in whatever order or in the one that they come in.

    `exact` is the side, 0 or 1, whose figures were never rounded, `least` the decimals that count at least.
    """
    if not all(_at_a_glance(a, b) for a, b in zip(here, there, strict=True)):
        return False
    pairs = [_as_coarse(a, b) for a, b in zip(here, there, strict=True)]
    here, there = [a for a, _ in pairs], [b for _, b in pairs]
    digits = [_coarser(_digits(a), _digits(b), exact, least) for a, b in zip(here, there, strict=True)]
    one, other = (
        list(zip(*columns, strict=True)) if as_they_come else _sorted(columns, digits) for columns in (here, there)
    )
    return all(
        _close(a, b, d) for left, right in zip(one, other, strict=True)
        for a, b, d in zip(left, right, digits, strict=True)
    )  # fmt: skip


def as_fine(column: Sequence[Any], way: Sequence[Any], decimals: int) -> bool:
    """Whether the figures of a column were shown with so many decimals, or are those of another to the last."""
    shown = _digits(column)
    if shown is not None and shown >= decimals:
        return True
    here, there = (sorted(v for v in values if isinstance(v, int | float)) for values in (column, way))
    return len(here) == len(there) and all(_close(a, b, None) for a, b in zip(here, there, strict=True))


def _as_coarse(one: list[Any], other: list[Any]) -> tuple[list[Any], list[Any]]:
    """Times beside days are compared by their day."""
    if _all_days(one) and not _all_days(other):
        return one, _days_of(other) or other
    if _all_days(other) and not _all_days(one):
        return _days_of(one) or one, other
    return one, other


def _all_days(column: list[Any]) -> bool:
    found = [v for v in column if v is not None]
    return bool(found) and all(isinstance(v, str) and len(v) == _DAY and v[4] == v[7] == "-" for v in found)


def _days_of(column: list[Any]) -> list[Any] | None:
    """The days of a column of times; None where it holds anything else."""
    if not all(
        v is None or (isinstance(v, str) and v[4:5] == v[7:8] == "-" and v[_DAY : _DAY + 1] in ("", " "))
        for v in column
    ):
        return None
    return [v if v is None else v[:_DAY] for v in column]


def _coarser(one: int | None, other: int | None, exact: int | None, least: int) -> int | None:
    """Decimals to compare with: whole figures are exact unless the other side, too, was rounded from a broken one."""
    if one is not None and other is not None and exact is not None:
        return max(least, (one, other)[1 - exact])
    return None if one is None or other is None else max(least, min(one, other))


def _sorted(columns: list[list[Any]], digits: list[int | None]) -> list[tuple[Any, ...]]:
    """Rows in an order that rounding does not turn: texts first, then figures as coarse as they are compared."""
    rows = list(zip(*columns, strict=True))

    def key(row: tuple[Any, ...]) -> tuple[list[int], list[Cell], list[Cell]]:
        cells = [_cell(v, d) for v, d in zip(row, digits, strict=True)]
        return [c[0] for c in cells], [c for c in cells if c[0] != 1], [c for c in cells if c[0] == 1]

    return sorted(rows, key=key)


def _cell(value: Any, digits: int | None) -> Cell:
    if value is None:
        return (0, 0.0, "")
    if isinstance(value, int | float):
        return (1, float(value) if digits is None else round(float(value), digits), "")
    return (2, 0.0, str(value))


def _close(one: Any, other: Any, digits: int | None) -> bool:
    if isinstance(one, int | float) and isinstance(other, int | float):
        slack = _RELATIVE * max(abs(one), abs(other)) if isinstance(one, float) or isinstance(other, float) else 0.0
        rounding = 0.0 if digits is None else 0.5001 * 10.0**-digits
        return abs(one - other) <= max(slack, rounding)
    return bool(one == other)
