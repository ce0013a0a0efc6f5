"""The columns of a control as somebody else might give them: a month without its year, a meaning instead of its code, a
key instead of what it is called, a share of one instead of a hundred, two figures beneath each other.

The same rows in another form are not another answer. What a column may be told by follows from the reading, the notes
and the control's own rows.
"""

from __future__ import annotations

import calendar
import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from harquel.core.calendar import FISCAL
from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.notes import ColumnNotes, Notes
from harquel.core.reading.paths import Way, table_named, way_to
from harquel.core.reading.value import Figure, Per, Reading, Worth

_HUNDREDTHS: Final = frozenset({"share", "part", "percent"})
_YEAR, _MONTH, _DAY = 4, 7, 10
"""Characters of an instant."""
_MONTHS: Final = 12
_SUNDAY: Final = 6

Values = tuple[Any, ...]


@dataclass(frozen=True)
class Part:
    """One column of a control: its values, and others that say the same of the same rows, the first as they are."""

    ways: tuple[Values, ...]
    figure: bool = False
    needed: bool = True
    """Whether an answer must have it."""
    group: bool = False
    """Whether it says of which group a row is."""


@dataclass(frozen=True)
class Beside:
    """A column that a control gives beside what was asked for, or a text put together of columns of the same rows."""

    name: str
    """Of which table it is."""
    values: Values
    of: tuple[str, ...] = ()
    """The columns that it is put together of."""


def parts_of(
    reading: Reading, rows: Sequence[Sequence[Any]], catalog: Catalog, notes: Notes, beside: Sequence[Beside] = ()
) -> list[Part]:
    """The columns of a control, in their order; `rows` is what it gave, without what stands beside."""
    reading = reading.given()
    columns = [tuple(row[place] for row in rows) for place in range(_width(reading))]
    asked, first, shown = reading.asked_for(), len(reading.per), len(reading.per) + len(reading.figures)
    if reading.tally:
        return [Part((columns[0],), figure=True)]
    base = table_named(reading.rows, catalog)
    made = []
    names = [per.column for per in reading.per] + [""] * len(reading.figures)
    names += [s if isinstance(s, str) else "" for s in reading.show]
    for place, (name, values) in enumerate(zip(names, columns, strict=True)):
        if name:
            way = way_to(name, base, catalog)
            unit = reading.per[place].unit if place < first else None
            column = notes.of(way.table.name).columns.get(way.column.name, ColumnNotes())
            ways = [values, *(_in_time(values, unit) if unit else _by_notes(values, column))]
            ways += _keys(place, names, columns, beside, reading, catalog)
            made.append(Part(tuple(ways), group=place < first))
        elif place < shown:
            figure = reading.figures[place - first]
            ways = [values, *_as_share(values)] if figure.figure in _HUNDREDTHS else [values]
            made.append(Part(tuple(ways), figure=True, needed=place in asked))
        else:
            # What only says which rows are meant need not be shown.
            ranks = reading.top is not None and any(order.by == place - shown for order in reading.order)
            made.append(Part((values,), figure=True, needed=not ranks))
    return made


def _width(reading: Reading) -> int:
    return 1 if reading.tally else len(reading.per) + len(reading.figures) + len(reading.show)


def beneath(reading: Reading, parts: Sequence[Part]) -> list[Part] | None:
    """The same with its figures beneath each other, a row for each, and what tells them apart as a column."""
    reading = reading.given()
    first = len(reading.per)
    asked = [n for n in sorted(reading.asked_for()) if first <= n < first + len(reading.figures)]
    if len(asked) < 2 or reading.tally or not parts:
        return None
    groups = [
        Part(tuple(tuple(v for v in way for _ in asked) for way in part.ways), group=True) for part in parts[:first]
    ]
    count = len(parts[asked[0]].ways[0])
    values = tuple(parts[n].ways[0][row] for row in range(count) for n in asked)
    figures = [reading.figures[n - first] for n in asked]
    labels = [way * count for way in _labels(figures)]
    told = [Part(tuple(labels))] if labels else []
    return [*groups, *told, Part((values,), figure=True)]


def _labels(figures: Sequence[Figure]) -> list[Values]:
    """What tells them apart, where the reading says it: the time or the value that each is of."""
    if all(len(f.during) == 1 and f.during[0].since for f in figures):
        starts = [str(f.during[0].since) for f in figures]
        ways = [tuple(s[:_YEAR] for s in starts), tuple(s[:_MONTH] for s in starts), tuple(s[5:_MONTH] for s in starts)]
        ways += [*zip(*map(_month, figures), strict=True), tuple(f.during[0].words for f in figures)]
        return [way for way in dict.fromkeys(ways) if len(set(way)) == len(way)]
    if all(len(f.only) == 1 and f.only[0].how == "equal" and len(f.only[0].values) == 1 for f in figures):
        return [tuple(f.only[0].values[0] for f in figures)]
    return []


def _month(figure: Figure) -> tuple[str, ...]:
    """What the month is called in which its time begins."""
    since = str(figure.during[0].since)
    if not since[5:_MONTH].isdigit() or not 1 <= int(since[5:_MONTH]) <= _MONTHS:
        return ("",) * 4
    names = [named[int(since[5:_MONTH])] for named in (calendar.month_name, calendar.month_abbr)]
    return (*names, *(f"{name} {since[:_YEAR]}" for name in names))


def _in_time(values: Values, unit: str) -> list[Values]:
    """A month of one year by its number, a day of the week by its name."""
    if unit == "month" and len({str(v)[:_YEAR] for v in values}) == 1:
        months = [str(v)[5:_MONTH] for v in values]
        if all(m.isdigit() for m in months):
            return [
                tuple(months),
                *(tuple(n[int(m)] for m in months) for n in (calendar.month_name, calendar.month_abbr)),
            ]
    if unit in ("week", "quarter"):
        return _in_weeks(values) if unit == "week" else _in_quarters(values)
    if unit in FISCAL:
        return _in_fiscal_years(values)
    if unit == "weekday" and all(isinstance(v, int) and 0 <= v <= 6 for v in values):
        # Ours begins on Sunday, the calendar's on Monday.
        return [tuple(n[(v - 1) % 7] for v in values) for n in (calendar.day_name, calendar.day_abbr)]
    return []


def _in_weeks(values: Values) -> list[Values]:
    """By their numbers in the year, in the ways that engines count them. The week in which a year begins is the last of
    the old one or number 0 of the new one: by its first day or by its last.
    """
    try:
        first = [dt.date.fromisoformat(str(v)[:_DAY]) for v in values]
    except ValueError:
        return []
    number = "%U" if first and first[0].weekday() == _SUNDAY else "%W"
    told: list[Values] = []
    for days in (first, [_after(day, 6) for day in first]):
        forms = [f"%Y-{number}", f"%Y-W{number}", "%G-W%V", "%G-%V"]
        forms += [number, "%V"] if len({day.year for day in days}) == 1 else []
        told += [tuple(day.strftime(form) for day in days) for form in forms]
    return told


def _after(day: dt.date, days: int) -> dt.date:
    try:
        return day + dt.timedelta(days=days)
    except OverflowError:
        return day


def _in_quarters(values: Values) -> list[Values]:
    parts = [str(v).partition("-Q") for v in values]
    if not all(year.isdigit() and number.isdigit() for year, _, number in parts):
        return []
    forms = ("{0} Q{1}", "{0}-{1}", "Q{1} {0}")
    told = [tuple(form.format(year, number) for year, _, number in parts) for form in forms]
    if len({year for year, *_ in parts}) == 1:
        told += [tuple(f"Q{n}" for *_, n in parts), tuple(n for *_, n in parts)]
    return told


def _in_fiscal_years(values: Values) -> list[Values]:
    """By one of the years that each lies in, or by both in other ways."""
    parts = [str(v).partition("-") for v in values]
    if not all(len(year) == len("2026/27") and year[:_YEAR].isdigit() for year, *_ in parts):
        return []
    told: list[Values] = []
    for add, forms in ((0, ("{0}", "FY{0}", "FY {0}")), (1, ("{0}", "FY{0}", "FY {0}", "FY{1}"))):
        for form in forms:
            named = [form.format(int(y[:_YEAR]) + add, y[-2:]) for y, *_ in parts]
            told += _with_quarters(named, [quarter for *_, quarter in parts])
    for form in ("{0}-{1}", "{0}/{1}", "FY{0}/{1}", "{0}/{2}{1}", "{0}-{2}{1}"):
        named = [form.format(y[:_YEAR], y[-2:], str(int(y[:_YEAR]) + 1)[:2]) for y, *_ in parts]
        told += _with_quarters(named, [quarter for *_, quarter in parts])
    return told


def _with_quarters(years: list[str], quarters: list[str]) -> list[Values]:
    if not any(quarters):
        return [tuple(years)]
    return [
        tuple(form.format(year, quarter) for year, quarter in zip(years, quarters, strict=True))
        for form in ("{0}-{1}", "{0} {1}", "{1} {0}")
    ]


def _by_notes(values: Values, column: ColumnNotes) -> list[Values]:
    """By the meanings of codes, and with a word for what is empty."""
    codes = {str(code): meaning for code, meaning in column.codes.items()}
    told = [tuple(codes.get(_code(v), v) for v in values)] if codes else []
    words = [word.strip() for word in (column.null_means or "").split(",") if word.strip()]
    if None in values:
        told += [tuple(word if v is None else v for v in way) for word in words for way in (values, *told)]
    return told


def _code(value: Any) -> str:
    return str(int(value)) if isinstance(value, bool) else str(value)


def _as_share(values: Values) -> list[Values]:
    """Of one instead of a hundred."""
    if not all(v is None or isinstance(v, int | float) or _number(v) for v in values):
        return []
    return [tuple(v if v is None else float(v) / 100 for v in values)]


def _number(value: Any) -> bool:
    return isinstance(value, str) and value.replace(".", "", 1).lstrip("-").isdigit()


def _keys(
    place: int, names: list[str], columns: list[Values], beside: Sequence[Beside], reading: Reading, catalog: Catalog
) -> list[Values]:  # fmt: skip
    """A key instead of the texts that say which row it is, where in these rows it stands for just one of each, and the
    other way round. Never an amount or a time instead of another.
    """
    base = table_named(reading.rows, catalog)
    ways = [way_to(name, base, catalog) if name else None for name in names]
    here = ways[place]
    assert here is not None
    texts = [n for n, way in enumerate(ways) if way and way.table is here.table and way.column.kind == "text"]
    told = [place] if here.column.primary_key else texts
    given = list(zip(*(columns[n] for n in told), strict=True))
    return [other.values for other in beside if _tied(here, other, given, base, catalog)]


def _tied(here: Way, other: Beside, given: Sequence[Values], base: Table, catalog: Catalog) -> bool:
    """Whether what stands beside says of the same rows which they are. `given` is what tells them so far."""
    way = way_to(other.name, base, catalog)
    made_of = [way_to(name, base, catalog) for name in other.of]
    if any(one.table is here.table and one.column is here.column for one in made_of):
        # What was asked for stands in it.
        return True
    on_the_way = way.table is here.table or way.table in [step.table for step in here.steps]
    if way.column.primary_key and on_the_way and (here.column.kind == "text" or here.column.primary_key):
        pairs = set(zip(given, other.values, strict=True))
        return len(pairs) == len(set(given)) == len(set(other.values))
    return way.table is here.table and here.column.primary_key and way.column.kind == "text"


def prefixes(reading: Reading, catalog: Catalog) -> dict[str, str]:
    """The tables from which a reading gives something, or on whose rows its keys lead there, and how names of their
    columns begin in it; none that is there in two ways, as its own parent.
    """
    base = table_named(reading.rows, catalog)
    # Its own rows are there, whether anything of them is given or not.
    found: dict[str, str] = {base.name: f"{base.name}."}
    twice: set[str] = set()
    given: list[Per | Worth | str] = [*reading.per, *reading.show]
    names = [one if isinstance(one, str) else one.column for one in given if not isinstance(one, Worth)]
    for way in (way_to(name, base, catalog) for name in names):
        keys: list[str] = []
        for step in way.steps:
            keys.append(step.key.columns[0])
            table = table_named(step.key.table, catalog).name
            prefix = f"{'>'.join(keys)}>{table}."
            twice |= {table} if found.setdefault(table, prefix) != prefix else set()
    return {table: prefix for table, prefix in found.items() if table not in twice}
