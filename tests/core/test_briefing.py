"""What the model is told: complete, in the spelling of the database, and nothing that is withheld."""

from __future__ import annotations

import dataclasses
import datetime as dt
from pathlib import Path

import pytest
from benchmarks.briefing import world as among_decoys

from harquel.core.briefing import Briefing, CatalogIndex, TokenGauge, brief
from harquel.core.briefing.brief import pick_examples
from harquel.core.briefing.describe import measure_text, table_text
from harquel.core.domain.catalog import Catalog, Column, ForeignKey, Table
from harquel.core.domain.examples import Example
from harquel.core.domain.findings import Finding
from harquel.core.domain.joins import propose_joins, with_declared
from harquel.core.domain.notes import ColumnNotes, Measure, Notes, TableNotes
from harquel.core.domain.policy import Policy
from harquel.core.prompts import compose, feedback
from harquel.testing.sources import NOW, briefed, demo_notes, demo_policy, scanned

LANTERN = Table(
    "lantern",
    "table",
    (
        Column("id", "INTEGER", False, True, True),
        Column("colour", "TEXT", True, samples=("green", "it's red"), complete=True),
        Column("order", "REAL", False),
        Column("quay_id", "INTEGER", False),
    ),
    (ForeignKey(("quay_id",), "quay", ("id",)),),
    2,
)


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    policy = demo_policy()
    return policy.visible(scanned(ferries, policy))


def whole(catalog: Catalog, notes: Notes | None = None, examples: tuple[Example, ...] = ()) -> Briefing:
    return briefed("anything", catalog, notes, examples)


def test_a_table_is_described_as_it_stands_with_the_notes_as_comments() -> None:
    notes = TableNotes(
        text="A light\non a quay.",
        synonyms=("lamp",),
        label="colour",
        columns={"order": ColumnNotes(text="place in line", unit="m", codes={"1": "first"}, null_means="nowhere")},
    )
    assert table_text(LANTERN, notes, "sqlite", Policy()) == (
        "-- A light on a quay.\n-- also called: lamp\n-- named by: colour\n-- 2 rows\n"
        "CREATE TABLE lantern (\n"
        "  id INTEGER PRIMARY KEY,\n"
        "  colour TEXT, -- values: 'green', 'it''s red'\n"
        "  \"order\" REAL NOT NULL, -- place in line; unit: m; codes: '1' = first; null means: nowhere\n"
        "  quay_id INTEGER NOT NULL,\n"
        "  FOREIGN KEY (quay_id) REFERENCES quay (id)\n);"
    )


def test_a_measure_is_described_with_its_definition() -> None:
    measure = Measure(
        sql="SUM(a.b)", of="a", where="a.c = 1", when="a.d", unit="EUR", better="high", synonyms=("x", "y")
    )
    text = measure_text("income", measure)
    for part in (
        "- income",
        "also called: x, y",
        "sql: SUM(a.b)",
        "where: a.c = 1",
        "dated by: a.d",
        "better when: high",
    ):
        assert part in text


def test_the_whole_schema_goes_in_while_it_fits(catalog: Catalog) -> None:
    briefing = whole(catalog)
    assert len(briefing.summary.tables) == 18
    assert {t.reason for t in briefing.summary.tables} == {"the whole schema fits"}
    assert "revenue" in briefing.measures
    assert 2000 < briefing.summary.tokens < 6000


def test_measures_and_examples_need_their_tables(ferries: Path) -> None:
    policy = demo_policy(["booking", "fuel_log"])
    catalog = policy.visible(scanned(ferries, policy))
    examples = (
        Example("a", "SELECT 1 FROM fuel_log", ("fuel_log",)),
        Example("b", "SELECT 1 FROM vessel", ("vessel",)),
    )
    briefing = whole(catalog, examples=examples)
    assert "revenue" not in briefing.measures
    assert "on time rate" in briefing.measures
    assert briefing.summary.examples == ["b"]


def test_a_measure_over_a_withheld_column_is_not_told(ferries: Path) -> None:
    policy = demo_policy(["sailing.actual_departure"])
    catalog = policy.visible(scanned(ferries, policy))
    assert "on time rate" not in whole(catalog).measures


def test_withheld_names_appear_nowhere(catalog: Catalog) -> None:
    briefing = whole(catalog)
    text = " ".join(m["content"] for m in compose("x", briefing, NOW, "Ada"))
    for word in ("email", "phone TEXT", "post.example"):
        assert word not in text


@pytest.mark.parametrize(
    ("question", "wanted"),
    [
        ("average wind", {"weather_reading", "harbour"}),
        ("litres of fuel", {"fuel_log", "vessel"}),
        ("revenue by route", {"booking", "route"}),
        ("incidents by category", {"incident", "sailing"}),
    ],
)
def test_beyond_the_budget_names_pull_their_tables_in(question: str, wanted: set[str], catalog: Catalog) -> None:
    briefing = briefed(question, catalog, budget=1200)
    names = {t.name for t in briefing.summary.tables}
    assert wanted <= names
    assert len(names) < 12
    assert briefing.summary.tokens < 1700


@pytest.mark.parametrize(
    ("question", "wanted"),
    [
        ("How often did Slate Gannet leave late in July 2026?", {"sailing", "vessel"}),
        ("How many animals travelled per island of the departure harbour?", {"booking_item", "sailing", "route"}),
    ],
)
def test_what_a_named_row_did_is_found_among_two_thousand_tables(
    question: str, wanted: set[str], ferries: Path
) -> None:
    index = CatalogIndex.build(among_decoys(ferries), demo_notes(), demo_policy())
    assert wanted <= {t.name for t in brief(question, index, (), 4000, TokenGauge()).summary.tables}


def test_a_briefing_is_never_empty(catalog: Catalog) -> None:
    index = CatalogIndex.build(catalog, Notes(), demo_policy())
    for question, room in (("Wherefore?", 600), ("How many vessels are there?", 40), ("Wherefore?", 40)):
        found = brief(question, index, (), room, TokenGauge())
        assert found.summary.tables, (question, room)
    # Nothing is named: what most others lead to.
    assert "sailing" in {t.name for t in brief("Wherefore?", index, (), 600, TokenGauge()).summary.tables}


def test_reasons_are_said_for_each_table_when_there_was_a_choice(catalog: Catalog) -> None:
    reasons = {t.name: t.reason for t in briefed("litres of fuel", catalog, budget=900).summary.tables}
    assert "litre" in reasons["fuel_log"]
    assert reasons["vessel"]


def test_the_prompt_holds_role_dialect_now_person_schema_and_question(catalog: Catalog) -> None:
    system, user = compose("How many?", whole(catalog), dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC), "Ada Brinewell")
    assert "read-only" in system["content"]
    for part in (
        "## Dialect\nSQLite",
        "2026-09-14 10:00:00 (Monday)",
        "Ada Brinewell",
        "## Measures",
        "CREATE VIEW route_day",
    ):
        assert part in user["content"]
    assert user["content"].endswith("## Question\nHow many?")


def test_feedback_says_each_fault_once_and_the_error_too() -> None:
    finding = Finding(rule="unknown-column", severity="error", message="There is no column x.", hint="Nearest: y.")
    text = feedback([finding, finding], "no such function")["content"]
    assert text.count("There is no column x. Nearest: y.") == 1
    assert "[database] 'no such function" in text


def test_text_in_the_data_stays_data(catalog: Catalog) -> None:
    """The poisoned notes are long texts of many values: they do not come into the prompt as samples."""
    assert "Ignore all previous" not in whole(catalog).schema


def test_ranking_forgives_a_slip_of_spelling_and_knows_values_and_names_with_humps(catalog: Catalog) -> None:
    first = {q: briefed(q, catalog, budget=700).summary.tables for q in ("Booknigs", "Gullspire", "WeatherReading")}
    names = {q: {t.name for t in tables} for q, tables in first.items()}
    assert "booking" in names["Booknigs"]
    assert "harbour" in names["Gullspire"]
    assert "weather_reading" in names["WeatherReading"]
    harbour = next(t for t in first["Gullspire"] if t.name == "harbour")
    assert harbour.reason == "name holds Gullspire"


def test_columns_are_left_out_before_tables_and_that_is_said(catalog: Catalog) -> None:
    tight = briefed("Average severity of incidents per vessel", catalog, budget=700).summary
    assert {"incident", "sailing", "vessel"} <= {t.name for t in tight.tables}
    assert any(t.left_out for t in tight.tables)
    assert tight.tokens <= 700
    assert tight.more_tables == 18 - len(tight.tables)


def test_declared_joins_are_told_like_keys_and_proposed_where_names_and_values_fit(catalog: Catalog) -> None:
    bare = dataclasses.replace(catalog, tables=tuple(dataclasses.replace(t, foreign_keys=()) for t in catalog.tables))
    proposed = {(p.table, p.column, p.to_table) for p in propose_joins(bare)}
    assert ("booking", "sailing_id", "sailing") in proposed
    assert ("route", "from_harbour_id", "harbour") not in proposed
    notes = Notes.model_validate({"joins": [{"from": "sailing.vessel_id", "to": "vessel.id", "text": "by key"}]})
    text = briefed("x", with_declared(bare, notes), notes).schema
    assert "FOREIGN KEY (vessel_id) REFERENCES vessel (id) -- declared: by key" in text


def test_examples_are_the_most_alike_and_not_like_each_other() -> None:
    bank = [Example(q, "SELECT 1", ()) for q in (
        "Fuel per vessel in 2025", "Fuel per vessel in 2024", "Fuel per vessel in 2023", "Fuel price per month",
        "Customers by harbour",
    )]  # fmt: skip
    chosen = [e.question for e in pick_examples("Fuel per vessel in 2026", bank, most=2)]
    assert chosen[0].startswith("Fuel per vessel")
    assert chosen[1] == "Fuel price per month"


def test_the_estimate_of_tokens_learns_from_what_the_model_reports() -> None:
    gauge = TokenGauge()
    before = gauge.estimate("x" * 3600)
    for _ in range(40):
        gauge.learn(8000, 4000)
    assert gauge.estimate("x" * 3600) > 1.5 * before
    gauge.learn(8000, 0)
    assert gauge.chars_per_token == pytest.approx(2.0, abs=0.1)
