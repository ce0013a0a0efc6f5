"""Which picture suits what a table has: chosen by its shape, or as it was wished where the rows allow that.

No picture where it would say nothing: one row, figures that are all equal, rows that more than two columns tell apart.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Hashable
from dataclasses import dataclass
from typing import Final

from harquel.contract.charts import MOST_PLACES, ChartKind, ChartWish, RowOrder
from harquel.core.answers.charts.seen import Seen, begins
from harquel.core.answers.sentence.figures import number
from harquel.core.calendar import USUAL, Calendar
from harquel.core.domain.chart import Chart, ChartColumn
from harquel.core.domain.inquiry import ResultTable
from harquel.core.language.say import say
from harquel.core.language.when import under_way

PLACES: Final = 20
"""Bars that are drawn where nobody says how many."""
LINES: Final = 6
"""Lines of different colours that can be told apart."""
_COLOURS: Final = 7
_POINTS: Final = 5_000
"""Rows beyond which nothing is drawn."""
_LEAST_OF_A_LINE: Final = 3
_LEAST_OF_A_CLOUD: Final = 8
_PARTS: Final = (2, 6)
_FEW: Final = 4
"""Bars that stand beside one another."""
_CELLS: Final = 40
_ATTRIBUTES: Final = 4
"""Columns without figures beyond which rows are a list of things."""
_FIGURES: Final = 3
"""Figures of one unit that stand beside one another."""


@dataclass(frozen=True)
class Arranged:
    """A chart, or None where these rows make none; and what of a wish was not done, in words."""

    chart: Chart | None
    note: str = ""


@dataclass(frozen=True)
class _Laid:
    """Columns in their places."""

    along: ChartColumn | None
    colour: ChartColumn | None
    figures: list[ChartColumn]


def arranged(
    seen: Seen, table: ResultTable, wish: ChartWish, now: dt.datetime | None, language: str, calendar: Calendar = USUAL
) -> Arranged:
    """The chart of a table; `now` is the instant of the question, by which a time is not over yet."""
    why = _no_picture(seen, table)
    if why:
        return Arranged(None, say(language, why))
    laid = _laid(seen, table, wish)
    if isinstance(laid, str):
        return Arranged(None, say(language, laid))
    fits = _fits(seen, laid, table)
    usual = _usual(seen, laid, table, fits)
    kind = wish.kind if wish.kind in fits else usual
    if kind is None:
        return Arranged(None, say(language, "chart-none"))
    note = "" if wish.kind in (None, kind) else say(
        language, "chart-unfit", wish=say(language, f"chart-{wish.kind}"), kind=say(language, f"chart-{kind}")
    )  # fmt: skip
    if kind not in ("points", "line", "columns", "bars") or laid.colour is not None:
        laid = _Laid(laid.along, laid.colour, laid.figures[:1])
    most = LINES if kind == "line" else MOST_PLACES if kind == "grid" or _natural(laid, table) else PLACES
    chart = Chart(
        kind=kind, title=seen.title, along=laid.along.at if laid.along else None,
        colour=laid.colour.at if laid.colour else None, figures=[c.at for c in _drawn(kind, seen, laid)],
        columns=seen.columns, order=_order(seen, laid, table), top=wish.top or most,
        under_way=_open(laid, table, now, calendar), whole=seen.whole, fits=fits,
    )  # fmt: skip
    return Arranged(chart, note)


def _drawn(kind: ChartKind, seen: Seen, laid: _Laid) -> list[ChartColumn]:
    """Points are laid by two figures, whatever their units."""
    if kind != "points":
        return laid.figures
    first = laid.figures[0]
    return [first, *(c for c in seen.figures if c is not first)][:2]


def _no_picture(seen: Seen, table: ResultTable) -> str:
    if not seen.figures:
        return "chart-no-figures"
    if len(table.rows) > _POINTS:
        return "chart-too-many"
    if len(table.rows) < 2 and not seen.beside:
        return "chart-one-row"
    return ""


def _laid(seen: Seen, table: ResultTable, wish: ChartWish) -> _Laid | str:
    """Which column stands where; a message where that cannot be."""
    apart, figures = seen.apart, seen.figures
    if seen.beside:
        return _Laid(None, None, figures)
    if not apart:
        return _Laid(None, None, figures[:2]) if len(figures) > 1 else "chart-one-column"
    places = _places(apart, table, wish)
    if places is None:
        return "chart-many-columns"
    along, colour = places
    drawn = _wanted(figures, table, wish)
    return _Laid(along, colour, drawn[:1] if colour is not None else drawn)


def _wanted(figures: list[ChartColumn], table: ResultTable, wish: ChartWish) -> list[ChartColumn]:
    """The figure that is wished for, alone; else the first and those of its unit."""
    wished = next((c for c in figures if c.at == wish.figure), None)
    if wished is not None:
        return [wished]
    unit = table.columns[figures[0].at].unit
    return [c for c in figures if table.columns[c.at].unit == unit][:_FIGURES]


def _places(
    apart: list[ChartColumn], table: ResultTable, wish: ChartWish
) -> tuple[ChartColumn, ChartColumn | None] | None:
    """What the chart goes along, and what it is coloured by; None where those do not tell each row apart."""
    along = next((c for c in apart if c.at == wish.along), None)
    apart = apart if along is not None else _telling(apart, table)
    if not apart:
        return None
    colour = next((c for c in apart if c.at == wish.colour and c is not along), None)
    along = along or _along(apart, colour, table)
    if _unique(table, [along]):
        return along, colour
    colour = colour or next((c for c in apart if c is not along), None)
    return (along, colour) if colour is not None and _unique(table, [along, colour]) else None


def _along(apart: list[ChartColumn], colour: ChartColumn | None, table: ResultTable) -> ChartColumn:
    """Of several what tells each row by itself, else what comes first by its kind."""
    by_itself = next((c for c in apart if _unique(table, [c])), None) if len(apart) > 2 else None
    return by_itself or min((c for c in apart if c is not colour), key=lambda c: _rank(c, table))


def _telling(apart: list[ChartColumn], table: ResultTable) -> list[ChartColumn]:
    """Those that a picture can go along. Rows with much to tell of each are a list of things, and by what those are
    numbered says nothing of them.
    """
    if len(apart) > _ATTRIBUTES:
        return []
    return [c for c in apart if len(apart) < 3 or table.columns[c.at].role != "key"]


def _rank(column: ChartColumn, table: ResultTable) -> tuple[int, int]:
    """Times first, then what recurs, then what has more values."""
    timed = 2 if column.span is None else 1 if column.span in ("weekday", "hour") else 0
    return timed, -len({*_values(table, column)})


def _values(table: ResultTable, column: ChartColumn) -> list[Hashable]:
    return [row[column.at] for row in table.rows]


def _unique(table: ResultTable, columns: list[ChartColumn]) -> bool:
    found = [tuple(row[c.at] for c in columns) for row in table.rows]
    return len(set(found)) == len(found)


def _fits(seen: Seen, laid: _Laid, table: ResultTable) -> list[ChartKind]:
    along, colour = laid.along, laid.colour
    if along is None:
        return ["columns", "bars"] if seen.beside else ["points"]
    found: list[ChartKind] = []
    places = len({*_values(table, along)})
    colours = len({*_values(table, colour)}) if colour else 1
    if along.span not in (None, "weekday", "hour") and places > 1 and _dated(table, along):
        found.append("line")
    if colours <= _COLOURS:
        found += ["bars", "columns"]
    if colour is not None:
        return [*found, "grid"] if places <= 4 * _CELLS and colours <= _CELLS else found
    figures = [number(row[laid.figures[0].at]) for row in table.rows]
    # An average, and what is no count of anything, has no whole.
    if seen.whole and 2 <= places <= PLACES and all(f is not None and f >= 0 for f in figures) and any(figures):
        found.append("parts")
    if len(seen.figures) > 1 and places >= _LEAST_OF_A_LINE:
        found.append("points")
    return found


def _dated(table: ResultTable, column: ChartColumn) -> bool:
    assert column.span is not None
    return all(begins(value, column.span) is not None for value in _values(table, column) if value is not None)


def _usual(seen: Seen, laid: _Laid, table: ResultTable, fits: list[ChartKind]) -> ChartKind | None:
    """What suits these rows best; None where a picture says nothing."""
    if laid.along is None:
        return "columns" if seen.beside else "points" if len(table.rows) >= _LEAST_OF_A_CLOUD else None
    if all(len({number(row[c.at]) for row in table.rows}) < 2 for c in laid.figures):
        return None
    places = len({*_values(table, laid.along)})
    if "line" in fits and places >= _LEAST_OF_A_LINE and seen.order is None:
        return "line"
    if laid.colour is not None:
        return _of_pairs(laid.along, laid.colour, table, fits)
    # What is ranked stays in its order.
    return "bars" if seen.order is not None else _of_places(seen, laid, table, fits, places)


def _of_pairs(
    along: ChartColumn, colour: ChartColumn, table: ResultTable, fits: list[ChartKind]
) -> ChartKind | None:  # fmt: skip
    """Few of both stand side by side, more are a grid."""
    few = len({*_values(table, colour)}) <= _FEW and len({*_values(table, along)}) <= 2 * _COLOURS
    return "bars" if few and along.span is None else "grid" if "grid" in fits else None


def _of_places(seen: Seen, laid: _Laid, table: ResultTable, fits: list[ChartKind], places: int) -> ChartKind:
    if laid.along is not None and laid.along.span is not None:
        return "columns"
    if "parts" in fits and _PARTS[0] <= places <= _PARTS[1] and _share(laid, table):
        return "parts"
    two = len(seen.figures) > 1 and len(laid.figures) == 1
    return "points" if two and "points" in fits and places >= _LEAST_OF_A_CLOUD else "bars"


def _share(laid: _Laid, table: ResultTable) -> bool:
    """Whether the figures are percentages that come to a whole."""
    column = table.columns[laid.figures[0].at]
    total = sum(float(number(row[laid.figures[0].at]) or 0) for row in table.rows)
    return column.unit == "%" and abs(total - 100) < 1


def _natural(laid: _Laid, table: ResultTable) -> bool:
    """Whether the places have an order of their own: times, and numbers that are none of the figures."""
    along = laid.along
    return along is None or along.span is not None or table.columns[along.at].type == "integer"


def _order(seen: Seen, laid: _Laid, table: ResultTable) -> RowOrder:
    if seen.order is not None:
        return seen.order
    return "natural" if _natural(laid, table) else "rows" if laid.colour is not None else "largest"


def _open(laid: _Laid, table: ResultTable, now: dt.datetime | None, calendar: Calendar) -> bool:
    """Whether the last of the times is not over yet."""
    along = laid.along
    if along is None or now is None or along.span in (None, "weekday", "hour", "instant"):
        return False
    last = max((at for v in _values(table, along) if (at := begins(v, along.span)) is not None), default=None)
    return last is not None and under_way(last, along.span, calendar.moved(now, along.span))
