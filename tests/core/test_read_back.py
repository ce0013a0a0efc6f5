"""Statements said in plain words, as sentences and in lines: forty pinned in two languages, and every honest query."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace
from pathlib import Path

import pytest
from breach.corpus import ENGINES, honest
from sqlglot import exp
from trust.world import World, world

from harquel.core.answers import cited_measures, lines_of, read_back
from harquel.core.answers.phrases import PHRASES
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.catalog import Catalog
from harquel.core.review.statement import statement_of
from harquel.core.sql.tree import parse
from harquel.testing.sources import demo_notes
from tests.conftest import DATA

PINNED = read_yaml((DATA / "read_back.yaml").read_text())
ASKED_AT = dt.datetime(2026, 9, 14, 10)
HOMES = {"sqlite": "main", "postgresql": "public", "mariadb": "ferries"}


@pytest.fixture(scope="module")
def demo(ferries: Path) -> World:
    return world(ferries)


@pytest.mark.parametrize("case", PINNED, ids=[c["sql"][:70] for c in PINNED])
def test_pinned(case: dict[str, str], demo: World) -> None:
    catalog = demo.index.catalog
    said = statement_of(parse(case["sql"], "sqlite")[0], catalog)
    assert read_back(said, demo_notes(), "en") == case["en"]
    assert read_back(said, demo_notes(), "de") == case["de"]
    cited = [measure.name for measure in cited_measures(said, demo_notes())]
    for language in ("en", "de"):
        lines = lines_of(said, demo_notes(), ASKED_AT, cited, language)  # type: ignore[arg-type]
        assert " · ".join(f"{line.label}: {line.text}" for line in lines) == case[f"lines_{language}"]


def test_forty_are_pinned_and_both_languages_have_the_same_phrases() -> None:
    assert len(PINNED) >= 40
    assert PHRASES["en"].keys() == PHRASES["de"].keys()
    for key, text in PHRASES["en"].items():
        places = {p.partition("}")[0] for p in text.split("{")[1:]}
        assert places == {p.partition("}")[0] for p in PHRASES["de"][key].split("{")[1:]}, key


@pytest.mark.parametrize("engine", ENGINES)
def test_every_honest_query_gets_one_with_all_its_literals(engine: str, demo: World) -> None:
    catalog: Catalog = replace(demo.whole, engine=engine, default_schema=HOMES[engine])
    # What is common to all engines is read on SQLite; the others add what is their own.
    common = set(honest("sqlite")) if engine != "sqlite" else set()
    notes = demo_notes()
    for sql in [s for s in honest(engine) if s not in common]:
        (tree,) = parse(sql, engine)
        statement = statement_of(tree, catalog)
        for language in ("en", "de"):
            said = read_back(statement, notes, language)  # type: ignore[arg-type]
            assert said.endswith((".", "“"))
            lines = lines_of(statement, notes, ASKED_AT, (), language)  # type: ignore[arg-type]
            told = " ".join(line.text for line in lines)
            # Queries within it are told once each, and what is no end of a time stands there as it is compared with.
            assert len({line.label for line in lines}) == len(lines)
            for node in tree.args["where"].find_all(exp.EQ) if tree.args.get("where") else ():
                if isinstance(node.expression, exp.Literal) and "%" not in str(node.expression.this):
                    assert str(node.expression.this) in told, (sql, told)
            # What a condition compares with is never lost on the way.
            for where in tree.find_all(exp.Where):
                for node in where.find_all(exp.Literal):
                    if "%" not in str(node.this) and not isinstance(node.parent, exp.Anonymous | exp.Interval):
                        assert str(node.this) in said, (sql, said)


TOLD_APART = {
    # Joined to nothing; on itself; and two readings of one table, each with an end of its own.
    "SELECT COUNT(*) FROM sailing s JOIN route r ON r.id = route_id JOIN vessel v ON r.id = route_id": "matched where",
    "SELECT COUNT(*) FROM crew_member m JOIN crew_member b ON b.id = m.manager_id": "matched where",
    "SELECT COUNT(*) FROM sailing a JOIN sailing b ON b.vessel_id = a.vessel_id "
    "WHERE a.scheduled_departure >= '2026-01-01' AND b.scheduled_departure < '2026-02-01'": "2026-02-01",
}


@pytest.mark.parametrize("sql", TOLD_APART)
def test_what_is_not_along_keys_or_no_period_is_not_told_as_one(sql: str, demo: World) -> None:
    said = lines_of(statement_of(parse(sql, "sqlite")[0], demo.index.catalog), demo_notes(), ASKED_AT, ())
    text = " ".join(line.text for line in said)
    assert TOLD_APART[sql] in text
    assert "along their keys" not in text
