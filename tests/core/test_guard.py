"""The guard, rule by rule: each data file holds titled statements that run, or are refused and why."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.catalog import Catalog, Column
from harquel.core.domain.policy import ColumnTreatment, Personal, Policy
from harquel.core.domain.result import Plan
from harquel.core.domain.statements import DraftedStatement
from harquel.core.guard import rule_on_plan, rule_on_text
from harquel.core.guard.rules import RULES, Rule
from harquel.testing.sources import demo_policy, scanned
from tests.conftest import DATA

CASES = [(f.stem, case) for f in sorted((DATA / "guard").glob("*.yaml")) for case in read_yaml(f.read_text())]
POLICY = demo_policy()


@pytest.fixture(scope="module")
def whole(ferries: Path) -> Catalog:
    return scanned(ferries, POLICY)


@pytest.fixture(scope="module")
def catalog(whole: Catalog) -> Catalog:
    return POLICY.visible(whole)


@pytest.mark.parametrize(("file", "case"), CASES, ids=[f"{f}: {c['title']}" for f, c in CASES])
def test_case(file: str, case: dict[str, str], catalog: Catalog, whole: Catalog) -> None:
    engine = case.get("engine", "sqlite")
    homes = {"sqlite": "main", "postgresql": "public", "mariadb": "ferries"}
    known = replace(catalog, engine=engine, default_schema=homes[engine])
    stored = replace(whole, engine=engine, default_schema=homes[engine])
    found = rule_on_text(DraftedStatement(case["sql"]), engine, known, POLICY, whole=stored)
    if "runs" in case:
        assert found.statement is not None, [f.message for f in found.findings]
        assert found.statement.sql == case["runs"]
    else:
        assert found.statement is None
        assert {f.rule for f in found.findings} == {case["refused"]}
        assert case.get("says", "") in found.findings[0].hint


def test_a_finding_points_at_its_place_in_code_points(catalog: Catalog) -> None:
    sql = "SELECT 'Ærø 🛟' AS place, nonsense FROM harbour"
    (finding,) = rule_on_text(DraftedStatement(sql), "sqlite", catalog, POLICY).findings
    assert finding.start is not None
    assert sql[finding.start : finding.end] == "nonsense"


@pytest.mark.parametrize("part", ["(", "NOT ", "- ", "id = 1 AND ", "(SELECT "])
def test_what_is_nested_too_deeply_is_refused(part: str, catalog: Catalog) -> None:
    found = rule_on_text(
        DraftedStatement("SELECT id FROM harbour WHERE " + part * 5000 + "1"), "sqlite", catalog, POLICY
    )
    assert found.statement is None
    assert found.ruling.verdict == "refuse"


def test_what_would_take_long_to_read_is_refused_unread(catalog: Catalog) -> None:
    sql = f"SELECT id FROM harbour WHERE id IN ({', '.join(map(str, range(20_000)))})"
    found = rule_on_text(DraftedStatement(sql), "sqlite", catalog, POLICY)
    assert (found.statement, found.tree, found.ruling.policy_line) == (None, None, "statement.length")
    assert "at most 60,000" in found.findings[0].message


def test_reads_holds_exactly_what_is_read(catalog: Catalog) -> None:
    sql = "SELECT v.name FROM vessel AS v JOIN sailing AS s ON s.vessel_id = v.id"
    statement = rule_on_text(DraftedStatement(sql), "sqlite", catalog, POLICY).statement
    assert statement is not None
    assert statement.reads == {"vessel": {"name", "id"}, "sailing": {"vessel_id"}}


def test_a_plan_beyond_the_limit_is_refused_and_says_which_line(catalog: Catalog) -> None:
    plan = Plan(("SCAN weather_reading",), ("weather_reading",), 0.1)
    ruling, rows = rule_on_plan(plan, catalog, demo_policy(plan_rows=1000))
    assert (ruling.verdict, ruling.policy_line) == ("refuse", "limits.plan_rows")
    assert rows is not None
    assert rows > 30_000


WORDS = st.sampled_from(
    "SELECT FROM WHERE harbour customer email name ( ) , ; * ' \" -- /* */ WITH AS DELETE INSERT UNION "
    "load_extension 1 = AND LIMIT ATTACH PRAGMA sqlite_master \x00 é ; DROP TABLE".split()
)


@settings(max_examples=300, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(words=st.lists(WORDS, max_size=14))
def test_no_text_breaks_the_guard_or_gets_a_withheld_column_through(words: list[str], catalog: Catalog) -> None:
    found = rule_on_text(DraftedStatement(" ".join(words)), "sqlite", catalog, POLICY)
    if found.statement is not None:
        assert "email" not in found.statement.reads.get("customer", set())
        assert found.statement.sql.upper().startswith(("SELECT", "WITH", "("))


@pytest.mark.parametrize("rule", RULES, ids=lambda r: r.name)
def test_the_examples_of_a_rule_say_what_it_does(rule: Rule, catalog: Catalog) -> None:
    bad, good = rule.bad, rule.good
    server = any(word in bad for word in ("regclass", "REPEAT"))
    known = replace(catalog, engine="postgresql", default_schema="public") if server else catalog
    policy = POLICY
    if "email" in good:
        policy = Policy(personal=Personal(treatments=(ColumnTreatment(column="customer.email", treatment="count"),)))
        email = Column("email", "TEXT", False)
        known = replace(known, tables=tuple(
            replace(t, columns=(*t.columns, email)) if t.name == "customer" else t for t in known.tables
        ))  # fmt: skip
    assert rule_on_text(DraftedStatement(bad), known.engine, known, policy).statement is None
    assert rule.codes
    assert rule.reason.endswith(".")
    found = rule_on_text(DraftedStatement(good), known.engine, known, policy)
    assert found.statement is not None, found.findings
