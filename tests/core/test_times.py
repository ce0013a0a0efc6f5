"""Conditions on times as intervals, in the ways in which people write them on three engines."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

import pytest
from trust.world import World, world

from harquel.core.review.calendar import calendar_unit
from harquel.core.review.periods import EARLIEST, LATEST
from harquel.core.review.statement import Statement, statement_of
from harquel.core.review.times import windows
from harquel.core.sql.tree import parse

AUGUST = [("2026-08-01", "2026-09-01")]


@pytest.fixture(scope="module")
def demo(ferries: Path) -> World:
    return world(ferries)


def statement(sql: str, engine: str, demo: World) -> Statement:
    (tree,) = parse(sql, engine)
    return statement_of(tree, demo.index.catalog)


def day(moment: dt.datetime) -> str:
    if moment in (EARLIEST, LATEST):
        return "-" if moment == EARLIEST else "∞"
    return f"{moment:%Y-%m-%d}"


@pytest.mark.parametrize(
    ("engine", "where", "spans"),
    [
        ("sqlite", "{t} >= '2026-08-01' AND {t} < '2026-09-01'", AUGUST),
        ("sqlite", "{t} < '2026-09-01' AND '2026-08-01' <= {t}", AUGUST),
        ("sqlite", "NOT ({t} < '2026-08-01' OR {t} >= '2026-09-01')", AUGUST),
        ("sqlite", "strftime('%Y-%m', {t}) = '2026-08'", AUGUST),
        ("sqlite", "substr({t}, 1, 7) = '2026-08'", AUGUST),
        ("sqlite", "{t} LIKE '2026-08%'", AUGUST),
        ("sqlite", "strftime('%Y', {t}) = '2026' AND strftime('%m', {t}) = '08'", AUGUST),
        ("sqlite", "date({t}) BETWEEN '2026-08-01' AND '2026-08-31'", AUGUST),
        ("sqlite", "{t} >= date('2026-09-14', 'start of month', '-1 month') AND {t} < date('2026-09-01')", AUGUST),
        ("sqlite", "{t} BETWEEN '2026-08-01' AND '2026-08-31'", [("2026-08-01", "2026-08-31")]),
        ("sqlite", "{t} > '2026-08-15'", [("2026-08-15", "∞")]),
        ("sqlite", "{t} < '2025-01-01' OR {t} >= '2026-08-01'", [("-", "2025-01-01"), ("2026-08-01", "∞")]),
        ("sqlite", "strftime('%Y', {t}) IN ('2025', '2026')", [("2025-01-01", "2027-01-01")]),
        ("postgresql", "date_trunc('month', {t}) = DATE '2026-08-01'", AUGUST),
        ("postgresql", "{t} >= TIMESTAMP '2026-09-01' - INTERVAL '1 month' AND {t} < TIMESTAMP '2026-09-01'", AUGUST),
        ("postgresql", "EXTRACT(YEAR FROM {t}) = 2026 AND EXTRACT(MONTH FROM {t}) = 8", AUGUST),
        ("postgresql", "to_char({t}, 'YYYY-MM') = '2026-08'", AUGUST),
        ("postgresql", "{t}::date BETWEEN '2026-08-01' AND '2026-08-31'", AUGUST),
        ("mariadb", "YEAR({t}) = 2026 AND MONTH({t}) = 8", AUGUST),
        ("mariadb", "DATE_FORMAT({t}, '%Y-%m') = '2026-08'", AUGUST),
        ("mariadb", "DATE({t}) >= '2026-08-01' AND DATE({t}) <= '2026-08-31'", AUGUST),
        ("mariadb", "{t} >= '2026-09-01' - INTERVAL 1 MONTH AND {t} < '2026-09-01'", AUGUST),
    ],
)  # fmt: skip
def test_a_condition_lets_these_times_through(
    engine: str, where: str, spans: list[tuple[str, str]], demo: World
) -> None:  # fmt: skip
    sql = f"SELECT COUNT(*) FROM sailing WHERE {where.replace('{t}', 'scheduled_departure')}"
    (window,) = windows(statement(sql, engine, demo))
    assert [(day(start), day(end)) for start, end in window.spans] == spans


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
