"""The guard, rule by rule: each data file holds titled statements that run, or are refused and why."""

from __future__ import annotations

from pathlib import Path

import pytest
import yaml
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.result import Plan
from harquel.core.domain.statements import DraftedStatement
from harquel.core.engines import SqliteEngine
from harquel.core.guard import rule_on_plan, rule_on_text
from tests.conftest import DATA
from tests.core.support import NOW, demo_policy

CASES = [(f.stem, case) for f in sorted((DATA / "guard").glob("*.yaml")) for case in yaml.safe_load(f.read_text())]
POLICY = demo_policy()


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    return POLICY.visible(SqliteEngine(ferries).scan(POLICY, NOW))


@pytest.mark.parametrize(("file", "case"), CASES, ids=[f"{f}: {c['title']}" for f, c in CASES])
def test_case(file: str, case: dict[str, str], catalog: Catalog) -> None:
    found = rule_on_text(DraftedStatement(case["sql"]), "sqlite", catalog, POLICY)
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
