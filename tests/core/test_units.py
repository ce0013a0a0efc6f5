"""The unit of a result's column: where the notes say it and the statement keeps it, and nowhere else."""

from __future__ import annotations

from pathlib import Path

import pytest

from harquel.core.answers.units import bare_measure, units_of
from harquel.core.briefing.index import CatalogIndex
from harquel.core.curation.documents import read_document
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.notes import ColumnNotes, Measure, Notes, TableNotes
from harquel.core.domain.policy import Policy
from harquel.core.domain.units import UnitNotes, Units
from harquel.core.errors import ConfigurationError
from harquel.core.review import review_draft
from harquel.core.sql.tree import parse
from harquel.testing.sources import NOW, demo_notes, scanned


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
    # A number beyond all numbers is no conversion, and neither is none at all.
    ("SUM(b.total_cents) * 1e400", None), ("SUM(b.total_cents) / 1e-320", None), ("SUM(b.total_cents) / 0", None),
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


_CRATES = {
    "pieces": UnitNotes(called=("pieces", "pcs")),
    "crates": UnitNotes(of="pieces", worth=24, called=("crates",)),
    "tons burden": UnitNotes(of="kg", worth=1016.05),
}


@pytest.mark.parametrize(("unit", "factor", "into"), [
    ("pieces", 1 / 24, "crates"), ("crates", 24, "pieces"), ("pieces", 1 / 12, None), ("tons burden", 1016.05, "kg"),
    ("tons burden", 1.01605, "t"), ("seconds", 1 / 3600, "hours"), ("days", 1 / 365.25, "years"), ("weeks", 7, "days"),
    ("nautical miles", 1.852, "km"), ("knots", 1.852, "km/h"), ("knots", 1 / 3600, None), ("nobody's", 1, None),
])  # fmt: skip
def test_a_unit_is_worth_so_much_of_each_other_of_its_kind(unit: str, factor: float, into: str | None) -> None:
    assert Units(_CRATES).converted(unit, factor) == into


@pytest.mark.parametrize(("name", "unit"), [
    ("sold_crates", "crates"), ("SOLD PCS", "pieces"), ("crates_per_day", "crates"), ("crates_sold", None),
    ("wind_kn", "knots"), ("pieces_per_crate", "pieces"), ("minutes", "minutes"), ("minutes_late", None), ("", None),
])  # fmt: skip
def test_a_column_says_its_unit_by_the_end_of_its_name(name: str, unit: str | None) -> None:
    assert Units(_CRATES).of_name(name) == unit


def test_what_is_of_one_unit_for_another_comes_to_the_first(catalog: Catalog) -> None:
    known = Units(_CRATES)
    assert [known.numerator(n) for n in ("EUR per litre", "pieces/day", "km/h", "EUR")] == ["EUR", "pieces", None, None]


@pytest.mark.parametrize(("shown", "said"), [
    ("SUM(quantity) / 24.0 AS crates", ""), ("SUM(quantity) AS pieces", ""), ("SUM(quantity) AS n", ""),
    ("SUM(quantity) AS crates", "The figure is in pieces; it is called crates. Divide by 24.0."),
    ("SUM(quantity) / 12.0 AS crates", "pieces times 0.0833333 is no unit. 1 crates is 24 pieces."),
    ("SUM(quantity * amount_cents) AS total", ""), ("SUM(amount_cents * kind) * 24.0 AS points", ""),
    ("SUM(amount_cents * kind) AS n", "points times 0.0416667 is no unit. "),
    ("SUM(amount_cents * id) AS points", ""), ("SUM(quantity * amount_cents) AS pieces", "The figure is in "
     "points; it is called pieces. Give it in pieces."),
])  # fmt: skip
def test_units_of_a_place_are_held_against_names_and_factors(catalog: Catalog, shown: str, said: str) -> None:
    columns = {"quantity": ColumnNotes(unit="pieces"), "amount_cents": ColumnNotes(unit="points per pieces"),
               "kind": ColumnNotes(unit="crates"), "id": ColumnNotes(unit="minutes")}  # fmt: skip
    units = {**_CRATES, "points": UnitNotes()}
    notes = Notes(tables={"booking_item": TableNotes(columns=columns)}, units=units)
    (tree,) = parse(f"SELECT {shown} FROM booking_item", "sqlite")
    found = review_draft(tree, CatalogIndex.build(catalog, notes, Policy()), NOW).findings
    assert [f"{f.message} {f.hint}" for f in found if f.rule == "unit"] == ([said] if said else [])


@pytest.mark.parametrize(("told", "fault"), [
    ("{crates: {of: boxes, worth: 2}, boxes: {of: pieces, worth: 12}}", "crates is so much of boxes, which is so much "
     "of something itself; say it in pieces"),
    ("{crates: {worth: 24}}", "crates is worth 24, but `of` does not say of what"),
    ("{crates: {of: crates}}", "leave `of` out"), ("{crates: {of: minutes, worth: 2}}", "say it in seconds"),
    ("{crates: {of: pieces, worth: 0}}", "greater than or equal to"),
    ("{crates: {of: pieces, worth: .nan}}", "cannot be used"),
])  # fmt: skip
def test_units_that_do_not_hold_together_are_refused_in_words(told: str, fault: str) -> None:
    with pytest.raises(ConfigurationError) as caught:
        read_document(f"units: {told}", Notes, "notes.yaml")
    assert fault in str(caught.value)
    assert "Value error" not in str(caught.value)
