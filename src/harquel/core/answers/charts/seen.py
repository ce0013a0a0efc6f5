"""What a table has that can be drawn: columns that tell its rows apart, times among them, and figures.

By the reading where one gave the same rows, otherwise by the columns alone.
"""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from harquel.contract.charts import RowOrder, Span
from harquel.contract.figures import is_figure
from harquel.core.answers.sentence import Told, names
from harquel.core.answers.sentence.figures import number, without_unit
from harquel.core.answers.sentence.names import Unnamed, first_up, plain
from harquel.core.domain.chart import Chart, ChartColumn
from harquel.core.domain.inquiry import ResultColumn, ResultTable
from harquel.core.language.say import say
from harquel.core.language.when import bucket

_FORMS: Final[Sequence[tuple[Span, re.Pattern[str]]]] = (
    ("year", re.compile(r"[12]\d{3}")),
    ("month", re.compile(r"\d{4}-(0[1-9]|1[0-2])")),
    ("quarter", re.compile(r"[1-9]\d{3}-?Q[1-4]")),
    ("day", re.compile(r"\d{4}-\d\d-\d\d([T ]00:00(:00(\.0+)?)?)?")),
    ("instant", re.compile(r"\d{4}-\d\d-\d\d[T ]\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d:?\d\d)?")),
)
_LONGEST: Final = 120
"""Characters of a title that is made of names of columns."""
_PARTS: Final = frozenset({"count", "distinct", "sum", "part", "measure"})
"""Figures that can be parts of a whole."""


@dataclass(frozen=True)
class Seen:
    """The columns that can be drawn, those that matter most first."""

    columns: list[ChartColumn]
    title: str
    order: RowOrder | None = None
    """The order that was asked for; None where none was."""
    whole: bool = False
    """Whether the figures are parts of one whole."""
    beside: bool = False
    """Whether the figures of the one row are the same figure of several times."""

    @property
    def apart(self) -> list[ChartColumn]:
        """What tells the rows apart."""
        return [c for c in self.columns if not c.figure]

    @property
    def figures(self) -> list[ChartColumn]:
        """What is drawn of them."""
        return [c for c in self.columns if c.figure]


def as_kept(chart: Chart) -> Seen:
    """As it was seen when the chart was made."""
    first = sorted(chart.columns, key=lambda c: c.at not in chart.figures)
    beside = chart.along is None and chart.kind != "points"
    return Seen(first, chart.title, "rows" if chart.order == "rows" else None, chart.whole, beside)


def as_they_are(table: ResultTable, language: str) -> Seen:
    """By the columns alone."""
    columns = [c for n in range(len(table.columns)) if (c := _column(table, n)) is not None]
    figures, apart = ([c.label for c in columns if c.figure is which] for which in (True, False))
    return Seen(columns, _named(figures[:1], apart, language))


def as_read(told: Told) -> Seen:
    """By the reading, whose statement gave the same rows."""
    reading, table = told.reading, told.table
    if not reading.figures or reading.tally or reading.across is not None or reading.each is not None:
        seen = as_they_are(table, told.language)
        return Seen(seen.columns, seen.title, "rows" if reading.order else None)
    if not reading.per and len(table.rows) == 1:
        return _beside(told)
    apart, figures = _of_per(told), _of_figures(told)
    if not figures or len(apart) < len(reading.per):
        return as_they_are(table, told.language)
    by = names.leading(reading)
    title = _headline(told, by) or _named([f.label for f in figures[:1]], [c.label for c in apart], told.language)
    ranked = reading.top is not None or (bool(reading.order) and isinstance(reading.order[0].by, int))
    return Seen([*apart, *figures], title, "rows" if ranked else None, _whole(told, by))


def _of_per(told: Told) -> list[ChartColumn]:
    """What figures are given for each of."""
    placed = [(at, per) for n, per in enumerate(told.reading.per) if (at := told.places.get(n)) is not None]
    called = [first_up(names.per_what(per, told.language)) for _, per in placed]
    return [
        ChartColumn(at=at, label=label, figure=False, span=_span(told.table, at, per.unit))
        for (at, per), label in zip(placed, called, strict=True)
    ]


def _of_figures(told: Told) -> list[ChartColumn]:
    """The figures, that which it is about first."""
    reading, table, by = told.reading, told.table, names.leading(told.reading)
    return [
        ChartColumn(at=at, label=_label(told, n) or plain(table.columns[at].name), figure=True)
        for n in sorted(range(len(reading.figures)), key=lambda n: n != by)
        if (at := told.places.get(len(reading.per) + n)) is not None and _drawn(table, at)
    ]  # fmt: skip


def _whole(told: Told, by: int) -> bool:
    """Whether the figures are parts of one whole: all of them, and such as add up."""
    reading = told.reading
    if by >= len(reading.figures) or reading.top is not None or reading.keep:
        return False
    figure, at = reading.figures[by], told.places.get(len(reading.per) + by)
    share = at is not None and told.table.columns[at].unit == "%"
    return figure.figure in _PARTS and (figure.figure == "part") >= share


def _beside(told: Told) -> Seen:
    """Several figures in one row: those of different times stand beside one another."""
    dated = [
        ChartColumn(at=at, label=names.first_up(text), figure=True)
        for n, figure in enumerate(told.reading.figures)
        if len(figure.during) == 1 and (text := _during(told, n)) and (at := told.places.get(n)) is not None
        and _drawn(told.table, at)
    ]  # fmt: skip
    alike = {(f.figure, str(f.of), f.only) for f in told.reading.figures if f.during}
    if len(dated) < 2 or len(alike) != 1 or len(told.table.rows) != 1:
        return Seen([], "")
    return Seen(dated, _label(told, 0), beside=True)


def _during(told: Told, figure: int) -> str:
    try:
        return told.dated(told.reading.figures[figure].during)
    except Unnamed:
        return ""


def _label(told: Told, figure: int) -> str:
    try:
        return first_up(names.label(told.reading, told.reading.figures[figure], told.notes, told.language))
    except Unnamed:
        return ""


def _headline(told: Told, figure: int) -> str:
    try:
        return told.headline(told.reading.figures[figure])
    except (Unnamed, IndexError):
        return ""


def _named(figures: Sequence[str], apart: Sequence[str], language: str) -> str:
    """A title made of names of columns."""
    if not figures:
        return ""
    by = names.joined(apart[:2], language)
    title = first_up(say(language, "by", what=figures[0], per=by) if by else figures[0])
    return title if len(title) <= _LONGEST else title[: _LONGEST - 1] + "…"


def _column(table: ResultTable, at: int) -> ChartColumn | None:
    column = table.columns[at]
    span = _span(table, at, None)
    if span is None and is_figure(column) and column.role is None:
        return ChartColumn(at=at, label=_called(column), figure=True) if _drawn(table, at) else None
    return None if column.type == "bytes" else ChartColumn(at=at, label=_called(column), figure=False, span=span)


def _called(column: ResultColumn) -> str:
    name = plain(column.name.replace(".", " ").replace(">", " "))
    return first_up(without_unit(name, column.unit)[:60]) or "?"


def _drawn(table: ResultTable, at: int) -> bool:
    """Whether a column holds figures and nothing else, at least one of them."""
    values = [number(row[at]) for row in table.rows if row[at] is not None]
    return bool(values) and None not in values


def _span(table: ResultTable, at: int, unit: str | None) -> Span | None:
    """What the values are where they are times: by the unit that was asked for, else by their form."""
    column, values = table.columns[at], [row[at] for row in table.rows if row[at] is not None]
    if unit in ("weekday", "hour"):
        return unit  # type: ignore[return-value]
    if unit is not None:
        known = bool(values) and all(bucket(v, unit, "en")[1] is not None for v in values)
        return unit if known else None  # type: ignore[return-value]
    if column.role == "key" or (is_figure(column) and column.role != "year") or column.type == "boolean":
        return None
    return _by_form([str(v) for v in values])


def _by_form(values: Sequence[str]) -> Span | None:
    span = next((span for span, form in _FORMS if values and all(form.fullmatch(v) for v in values)), None)
    if span == "day" and len(set(values)) > 1:
        months = [v[5:10] for v in values]
        # What is cut down to its month or year comes as its first day from some servers.
        return "year" if set(months) == {"01-01"} else "month" if {m[3:] for m in months} == {"01"} else "day"
    return span if span is None or all(begins(v, span) is not None for v in values) else None


def begins(value: Any, span: Span) -> dt.datetime | None:
    """When a time begins; None for what is none."""
    if value is None or span in ("weekday", "hour"):
        return None
    if span in ("instant", "day"):
        try:
            return dt.datetime.fromisoformat(str(value)).replace(tzinfo=None)
        except ValueError:
            return None
    return bucket(value, span, "en")[1] or begins(value, "day")
