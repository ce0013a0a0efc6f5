"""The sentence and the units, from the figures alone."""

from __future__ import annotations

from pathlib import Path

import pytest

from harquel.core.answers import units_of, word
from harquel.core.domain.inquiry import ResultColumn, ResultTable
from harquel.core.language import language_of
from harquel.core.sql import parse
from harquel.testing.sources import demo_notes, demo_policy, scanned

UNITS = demo_notes().known_units


def table(rows: list[list[object]], *columns: tuple[str, str, str | None]) -> ResultTable:
    shapes = [ResultColumn(name=n, type=t, unit=u) for n, t, u in columns]
    return ResultTable(columns=shapes, rows=rows, row_count=len(rows))


def test_sentences() -> None:
    name, sum_ = ("route", "text", None), ("revenue_eur", "number", "EUR")
    assert word(table([], name), UNITS) == "Nothing in the data meets these conditions."
    assert word(table([[12.5]], sum_), UNITS) == "Revenue: 12.50 EUR."
    two = table([["July 2026", 13.0], ["July 2025", 14.0]], ("period", "text", None), sum_)
    assert word(two, UNITS) == "July 2026, revenue 13.00 EUR; July 2025, revenue 14.00 EUR."
    three = table([["A", 3.0], ["B", 2.0], ["C", 1.0]], name, sum_)
    assert word(three, UNITS) == "3 rows: A, B, C."
    again = table([["A", 1], ["A", 2], ["A", 3], ["B", 4], [None, 5]], ("name", "text", None), ("n", "integer", None))
    assert word(again, UNITS) == "5 rows: A, B and 1 more."
    # Which comes first means nothing, and a number is no name.
    assert word(table([[n, 1.0] for n in "ABCDE"], name, sum_), UNITS, "de") == "5 Zeilen: A, B, C und 2 weitere."
    assert word(table([[1.0], [2.0], [3.0]], sum_), UNITS) == "3 rows."
    assert word(table([[None, 1.0], ["B", 2.0], ["C" * 99, 3.0]], name, sum_), UNITS) == "3 rows."


@pytest.mark.parametrize(
    ("sql", "units"),
    [
        ("SELECT SUM(f.litres) FROM fuel_log AS f", ["litres"]),
        ("SELECT total_cents, AVG(total_cents) / 100.0 FROM booking", ["euro cents", "EUR"]),
        ("SELECT SUM(b.total_cents) / 100.0 FROM booking AS b", ["EUR"]),
        ("SELECT MAX(wind_kn), COUNT(*), wind_kn * 2 FROM weather_reading", ["knots", None, None]),
        ("SELECT 100.0 * COUNT(*) / 3 AS share_percent FROM booking", ["%"]),
    ],
)
def test_units_are_said_where_the_notes_say_them(sql: str, units: list[str | None], ferries: Path) -> None:
    catalog = scanned(ferries, demo_policy())
    assert units_of(parse(sql, "sqlite")[0], "sqlite", catalog, demo_notes()) == units


def test_language() -> None:
    assert language_of("Wie viele Überfahrten fielen im August aus?") == "de"
    assert language_of("How many sailings were cancelled?") == "en"
    assert language_of("BW") == "en"
