"""The unit of a result's column: where the notes say it and the statement keeps it, and nowhere else."""

from __future__ import annotations

from pathlib import Path

import pytest

from harquel.core.answers.units import bare_measure, units_of
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.notes import Measure, Notes
from harquel.core.sql.tree import parse
from harquel.testing.sources import demo_notes, scanned


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    """Of the demo."""
    return scanned(ferries)


def units(catalog: Catalog, sql: str, notes: Notes | None = None) -> list[str | None]:
    (tree,) = parse(sql, "sqlite")
    return units_of(tree, "sqlite", catalog, notes or demo_notes())


@pytest.mark.parametrize(("shown", "unit"), [
    ("b.total_cents", "euro cents"), ("SUM(b.total_cents)", "euro cents"), ("MAX(ABS(b.total_cents))", "euro cents"),
    ("ROUND(AVG(b.total_cents), 2)", "euro cents"), ("COALESCE(SUM(b.total_cents), 0)", "euro cents"),
    ("IFNULL(SUM(b.total_cents), 0)", "euro cents"), ("CAST(SUM(b.total_cents) AS INTEGER)", "euro cents"),
    ("SUM(b.total_cents) / 100.0", "EUR"), ("ROUND(SUM(b.total_cents) / 100, 2)", "EUR"), ("total_cents", "euro cents"),
    # What is made of it is in another unit, or in none that is known.
    ("SUM(b.total_cents) / 10", None), ("SUM(b.total_cents) * 2", None), ("COUNT(b.total_cents)", None),
    ("b.total_cents > 5", None), ("b.total_cents || ' cents'", None), ("'euro cents'", None), ("b.id", None),
    ("SUM(b.total_cents) / COUNT(*)", None), ("100.0 * COUNT(*) / 7 AS late_percent", "%"), ("7 AS percentage", None),
])  # fmt: skip
def test_what_keeps_a_unit_and_what_does_not(catalog: Catalog, shown: str, unit: str | None) -> None:
    assert units(catalog, f"SELECT {shown} FROM booking AS b") == [unit]


def test_of_a_set_it_is_that_of_its_first_and_each_column_has_its_own(catalog: Catalog) -> None:
    sql = "SELECT total_cents, id FROM booking UNION ALL SELECT 1, 2"
    assert units(catalog, sql) == ["euro cents", None]
    assert units(catalog, "SELECT 1 UNION SELECT total_cents FROM booking") == [None]


def test_an_agreed_measure_says_its_own_whatever_its_table_is_called(catalog: Catalog) -> None:
    notes = Notes(measures={"load": Measure(sql="SUM(booking.total_cents) / 7.0", of="booking", unit="crates"),
                            "spoilt": Measure(sql="SUM((", of="booking", unit="x")})  # fmt: skip
    sql = "SELECT SUM(b.total_cents) / 7.0, SUM(total_cents) / 7.5 FROM booking AS b"
    assert units(catalog, sql, notes) == ["crates", None]
    assert bare_measure("SUM((", "sqlite") is None
    assert bare_measure("SUM(a.N)", "sqlite") == bare_measure("sum( b.n )", "sqlite")
