"""The two lines agree: whatever the guard lets run, the sandbox runs; and neither shows what is withheld."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.statements import DraftedStatement
from harquel.core.errors import SandboxError
from harquel.core.guard import rule_on_text
from harquel.core.sandbox import Sandbox
from harquel.testing.sources import demo_policy, demo_sandbox, scanned

POLICY = demo_policy(rows=20)
SMALL = ("harbour", "berth", "vessel", "route", "crew_member", "maintenance_order", "incident")


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    return POLICY.visible(scanned(ferries, POLICY))


@pytest.fixture(scope="module")
def sandbox(ferries: Path) -> Iterator[Sandbox]:
    made = demo_sandbox(ferries, rows=20, query_s=5)
    yield made
    made.close()


@st.composite
def queries(draw: st.DrawFn) -> str:
    """Queries over the small tables, with CTEs, joins, grouping, subqueries and now and then a withheld column."""
    columns = {
        "harbour": ["id", "name", "island", "has_ramp"],
        "berth": ["id", "harbour_id", "label"],
        "vessel": ["id", "name", "status", "built_year"],
        "route": ["id", "code", "from_harbour_id", "distance_nm"],
        "crew_member": ["id", "rank", "manager_id", "phone"],
        "maintenance_order": ["id", "kind", '"order"', "cost_cents"],
        "incident": ["id", "category", "severity", "note"],
    }
    table = draw(st.sampled_from(SMALL))
    other = draw(st.sampled_from(SMALL))
    first, second = (draw(st.sampled_from(columns[t])) for t in (table, other))
    condition = draw(
        st.sampled_from(
            ["", f" WHERE a.{first} IS NOT NULL", " WHERE a.id > 3", f" WHERE a.id IN (SELECT id FROM {other})",
             f" WHERE EXISTS (SELECT 1 FROM {other} AS e WHERE e.id = a.id AND e.{second} IS NOT NULL)"]
        )
    )  # fmt: skip
    shape = draw(st.integers(0, 6))
    if shape == 0:
        return f"SELECT a.{first}, COUNT(*) AS n FROM {table} AS a{condition} GROUP BY a.{first} ORDER BY n DESC"
    if shape == 1:
        return f"SELECT a.*, b.{second} FROM {table} a JOIN {other} b ON b.id = a.id{condition}"
    if shape == 2:
        return f"WITH c AS (SELECT a.id, a.{first} AS x FROM {table} a{condition}) SELECT x, COUNT(*) FROM c GROUP BY x"
    if shape == 3:
        return f"SELECT q.x FROM (SELECT a.{first} AS x FROM {table} AS a{condition}) AS q ORDER BY q.x LIMIT 3"
    if shape == 4:
        return f"SELECT a.id FROM {table} a{condition} UNION SELECT b.id FROM {other} b"
    if shape == 5:
        return f"SELECT a.id, (SELECT MAX(b.{second}) FROM {other} b WHERE b.id <= a.id) FROM {table} a{condition}"
    return f"SELECT a.{first}, ROW_NUMBER() OVER (PARTITION BY a.{first} ORDER BY a.id) FROM {table} AS a{condition}"


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(sql=queries())
def test_what_the_guard_lets_run_the_sandbox_runs(sql: str, catalog: Catalog, sandbox: Sandbox) -> None:
    ruled = rule_on_text(DraftedStatement(sql), "sqlite", catalog, POLICY)
    if ruled.statement is None:
        assert "phone" in sql
        assert {f.rule for f in ruled.findings} == {"unknown-column"}
        return
    result = sandbox.run(ruled.statement)
    assert len(result.rows) <= 20
    assert "phone" not in result.columns
    assert not any(isinstance(v, str) and v.startswith("+00 555") for row in result.rows for v in row)
    assert sandbox.plan(ruled.statement).steps


@settings(max_examples=120, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(sql=queries())
def test_past_the_guard_the_sandbox_alone_keeps_the_withheld_column(
    sql: str, catalog: Catalog, sandbox: Sandbox
) -> None:
    reads = {t.name: frozenset(c.name for c in t.columns) for t in catalog.tables}
    try:
        reply = sandbox.test_door(sql, reads)
    except SandboxError as error:
        assert error.fault in ("denied", "statement")
        return
    assert not any(isinstance(v, str) and v.startswith("+00 555") for row in reply["rows"] for v in row)
