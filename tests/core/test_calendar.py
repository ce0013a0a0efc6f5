"""Units of the calendar, in the ways in which people write them on three engines."""

from __future__ import annotations

from pathlib import Path

import pytest
from trust.world import World, world

from harquel.core.review.calendar import calendar_unit
from harquel.core.review.statement import Statement, statement_of
from harquel.core.sql.tree import parse


@pytest.fixture(scope="module")
def demo(ferries: Path) -> World:
    return world(ferries)


def statement(sql: str, engine: str, demo: World) -> Statement:
    (tree,) = parse(sql, engine)
    return statement_of(tree, demo.index.catalog)


@pytest.mark.parametrize(
    ("engine", "expression", "unit"),
    [
        ("sqlite", "strftime('%Y-%m', scheduled_departure)", "month"),
        ("sqlite", "strftime('%m', scheduled_departure)", "month of year"),
        ("sqlite", "strftime('%w', scheduled_departure)", "weekday"),
        ("sqlite", "date(scheduled_departure)", "day"),
        ("sqlite", "substr(scheduled_departure, 1, 4)", "year"),
        ("sqlite", "(CAST(strftime('%m', scheduled_departure) AS INTEGER) + 2) / 3", "quarter of year"),
        ("sqlite", "CAST(strftime('%m', scheduled_departure) AS INTEGER) / 3", ""),
        ("sqlite", "(CAST(strftime('%m', scheduled_departure) AS INTEGER) - 1) / 3 + 1", "quarter of year"),
        ("sqlite", "strftime('%Y', scheduled_departure) || '-' || strftime('%m', scheduled_departure)", "month"),
        ("postgresql", "date_trunc('week', scheduled_departure)", "week"),
        ("postgresql", "EXTRACT(HOUR FROM scheduled_departure)", "hour of day"),
        ("postgresql", "SUBSTRING(scheduled_departure FROM 1 FOR 7)", "month"),
        ("postgresql", "scheduled_departure::date", "day"),
        ("mariadb", "QUARTER(scheduled_departure)", "quarter of year"),
        ("mariadb", "DATE_FORMAT(scheduled_departure, '%x-%v')", "week"),
        ("mariadb", "status", ""),
    ],
)
def test_what_is_grouped_by_has_a_unit_of_the_calendar(engine: str, expression: str, unit: str, demo: World) -> None:
    found = statement(f"SELECT {expression} AS x, COUNT(*) FROM sailing GROUP BY 1", engine, demo)
    assert calendar_unit(found.outer.groups[0], found) == unit
