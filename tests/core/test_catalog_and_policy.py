"""What the scan sees, and what a policy leaves of it."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from harquel.core.curation import mismatches, read_document
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import DEFAULT_POLICY, Exposure, Personal, Policy
from harquel.core.engines import engine_for
from harquel.core.errors import ConfigurationError, SourceError
from harquel.core.guard.explain import check_policy, misfits, remark_on
from harquel.testing.sources import demo_notes, demo_policy, scanned


def test_the_scan_sees_keys_views_counts_and_values(ferries: Path) -> None:
    catalog = scanned(ferries, demo_policy())
    assert len(catalog.tables) == 18
    route, harbour, view = catalog.table("route"), catalog.table("harbour"), catalog.table("ROUTE_DAY")
    assert route is not None
    assert harbour is not None
    assert view is not None
    assert [(k.columns, k.table) for k in route.foreign_keys] == [
        (("from_harbour_id",), "harbour"), (("to_harbour_id",), "harbour"),
    ]  # fmt: skip
    assert (harbour.row_count, view.kind) == (8, "view")
    name = harbour.column("name")
    assert name is not None
    assert "Gullspire" in name.samples
    assert name.complete


def test_values_of_withheld_columns_are_never_read(ferries: Path) -> None:
    catalog = scanned(ferries, demo_policy())
    customer = catalog.table("customer")
    assert customer is not None
    assert all(not c.samples for c in customer.columns if c.name in ("name", "email", "phone"))


def test_exposure_takes_away_tables_columns_and_the_keys_that_lead_there(ferries: Path) -> None:
    policy = Policy(expose=Exposure(tables=("b*", "customer"), withhold=("berth", "*.total_cents")))
    seen = policy.visible(scanned(ferries, policy))
    assert [t.name for t in seen.tables] == ["booking", "booking_item", "customer"]
    booking = seen.table("booking")
    assert booking is not None
    assert booking.column("total_cents") is None
    assert [k.table for k in booking.foreign_keys] == ["customer"]


@pytest.mark.parametrize("column", ["email", "phone", "password_hash", "api_key", "last_name", "IBAN"])
def test_without_a_policy_delicate_columns_are_withheld(column: str) -> None:
    assert not DEFAULT_POLICY.shows("anything", column)
    assert DEFAULT_POLICY.shows("harbour", "name")


def test_a_file_that_is_missing_or_no_database_is_said_in_a_sentence(tmp_path: Path) -> None:
    for path, words in ((tmp_path / "none.db", "is not there"), (tmp_path, "cannot be read")):
        with pytest.raises(SourceError, match=words):
            scanned(path, DEFAULT_POLICY)
    text = tmp_path / "text.db"
    text.write_text("this is not a database, but it is long enough to look at")
    with pytest.raises(SourceError, match="not a SQLite database"):
        scanned(text, DEFAULT_POLICY)
    empty = tmp_path / "empty.db"
    empty.touch()
    assert scanned(empty, DEFAULT_POLICY).tables == ()


def test_scanning_a_wal_database_while_it_is_written(tmp_path: Path) -> None:
    path = tmp_path / "busy.db"
    writer = sqlite3.connect(path)
    writer.execute("PRAGMA journal_mode = WAL")
    writer.execute("CREATE TABLE t (a TEXT)")
    writer.execute("INSERT INTO t VALUES ('x')")
    writer.commit()
    writer.execute("BEGIN IMMEDIATE")
    table = scanned(path, DEFAULT_POLICY).table("t")
    writer.rollback()
    writer.close()
    assert table is not None
    assert table.row_count == 1


def test_urls_that_cannot_be_used_say_what_to_write(tmp_path: Path) -> None:
    for url in ("oracle://x/y", "ferries.db", "sqlite://host/x", "sqlite:///"):
        with pytest.raises(ConfigurationError) as caught:
            engine_for(url, tmp_path)
        assert "sqlite:///" in caught.value.hint


def test_no_policy_document_takes_protection_away_by_accident(ferries: Path) -> None:
    whole = scanned(ferries, DEFAULT_POLICY)

    def exposed(text: str) -> set[str]:
        seen = read_document(text, Policy, "policy").visible(whole)
        return {f"{t.name}.{c.name}" for t in seen.tables for c in t.columns}

    hidden = {"customer.email", "customer.phone", "customer.name"}
    for text in ("limits: {rows: 100}", "", 'expose: {tables: ["*"]}', "personal: {columns: [customer.email]}"):
        assert not exposed(text) & hidden, text
    assert exposed("personal: {cleared: [customer.email]}") & hidden == {"customer.email"}
    treated = "personal: {treatments: [{column: customer.phone, treatment: mask}]}"
    assert exposed(treated) & hidden == {"customer.phone"}
    assert exposed("withhold_delicate: false") >= hidden
    assert exposed("personal: {treatment: count}") >= hidden


def test_what_is_unprotected_is_said_with_its_line(ferries: Path) -> None:
    whole = scanned(ferries, DEFAULT_POLICY)
    said = {s.line: s.text for s in remark_on(Policy(personal=Personal(cleared=("customer.email",))), whole)}
    assert "customer.email" in said["personal.cleared[0]"]
    assert "customer.phone" in said["withhold_delicate"]
    open_ = {s.line: s.text for s in remark_on(Policy(withhold_delicate=False), whole)}
    assert "Shown to everybody" in open_["withhold_delicate"]
    assert remark_on(Policy(expose=Exposure(withhold=("customer.*", "crew_member.*"))), whole) == []
    assert check_policy(Policy(), whole) == []


def test_names_that_match_nothing_are_told_apart_from_patterns(ferries: Path) -> None:
    whole = scanned(ferries, DEFAULT_POLICY)
    policy = Policy(expose=Exposure(withhold=("customer.emial", "*_tmp")))
    (only,) = misfits(policy, whole)
    assert "Did you mean customer.email?" in only.text


def test_a_measure_of_a_column_that_is_not_there_does_not_fit(ferries: Path) -> None:
    whole = scanned(ferries, DEFAULT_POLICY)
    notes = Notes.model_validate({"measures": {"revenue": {"sql": "SUM(totl_cents)", "of": "booking"}}})
    (only,) = mismatches(notes, whole)
    assert "total_cents" in str(only)
    assert mismatches(demo_notes(), whole) == []


def test_codes_may_be_numbers_and_truths() -> None:
    notes = read_document("tables: {a: {columns: {b: {codes: {2: open, 1: shut, no: 5}}}}}", Notes, "notes")
    assert notes.tables["a"].columns["b"].codes == {"2": "open", "1": "shut", "false": "5"}
