"""By which calendar people reckon, in words for a model: their zone, what the columns hold, weeks, fiscal year."""

from __future__ import annotations

from typing import Final

from harquel.core.calendar import Calendar, fiscal_name
from harquel.core.domain.catalog import Catalog
from harquel.core.sql.local_time import converted, holds_utc

_NAMED: Final = 12
"""Columns that are named; more are told by their number."""


def reckoned(calendar: Calendar, catalog: Catalog) -> str:
    """The lines; empty where everything is as usual: UTC, weeks from Monday, calendar years."""
    said = []
    if calendar.zone != "UTC":
        said.append(f"Now, days, weeks, months and hours are meant as clocks show them in {calendar.zone}.")
        said += _columns(calendar, catalog)
    if calendar.week_begins != "monday":
        said.append(f"A week begins on {calendar.week_begins.capitalize()}.")
    if calendar.fiscal_year is not None:
        said += _fiscal_year(calendar)
    return "\n".join(said)


def _columns(calendar: Calendar, catalog: Catalog) -> list[str]:
    engine = catalog.engine
    utc = [(t, c) for t in catalog.tables for c in t.columns if holds_utc(c, calendar, engine)]
    if not utc:
        return []
    named = ", ".join(f"{table.name}.{column.name}" for table, column in utc[:_NAMED])
    more = f" and {len(utc) - _NAMED} more" if len(utc) > _NAMED else ""
    ways = dict.fromkeys(converted("x", c, calendar, engine) for _, c in utc)
    written = " or ".join(f"{way}" for way in ways)
    return [
        f"These columns hold UTC: {named}{more}. Where one is shown, cut to a day, month or hour, or compared with a "
        f"day or a time that people say, write it in local time: {written} for a column x."
    ]


def _fiscal_year(calendar: Calendar) -> list[str]:
    assert calendar.fiscal_year is not None
    begins, begun = calendar.fiscal_year.begins.capitalize(), calendar.began_in(2026)
    first, name = f"{calendar.months_moved + 1:02}-01", fiscal_name(begun)
    return [
        f"The fiscal year begins in {begins}: fiscal year 2026 is from {begun}-{first} up to, but not including, "
        f"{begun + 1}-{first}. Where figures are given for each, a fiscal year is named {name}, a quarter of it "
        f'{name}-Q1; a reading has the units "fiscal year" and "fiscal quarter" for them.'
    ]
