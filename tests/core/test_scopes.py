"""Which CTE a name means, held against a small reader of our own: what runs says what the standard's scopes say."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlglot import exp

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.guard import rule_on_text
from harquel.core.sql.tree import parse
from harquel.testing.sources import scanned

NAMES = ("a", "b", "vessel", "a_rows", "vessel_rows")
Known = dict[str, int]


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    """Of the demo, scanned once."""
    return scanned(ferries)


@st.composite
def nested(draw: st.DrawFn) -> tuple[str, int]:
    """A statement over CTEs of few names, within and beside each other, and the number that it gives."""

    def value(known: Known, depth: int) -> tuple[str, int]:
        kind = draw(st.integers(0, 3))
        if kind == 0 and depth > 0:
            sql, number = query(known, depth - 1)
            return f"({sql})", number
        if kind == 1 and known:
            name = draw(st.sampled_from(sorted(known)))
            return f"(SELECT MAX({name}.n) FROM {name})", known[name]
        if kind == 2 and known:
            name, other = (draw(st.sampled_from(sorted(known))) for _ in range(2))
            return f"(SELECT x.n * 3 + y.n FROM {name} AS x CROSS JOIN {other} AS y)", known[name] * 3 + known[other]
        number = draw(st.integers(1, 9))
        return str(number), number

    def query(known: Known, depth: int) -> tuple[str, int]:
        parts: list[str] = []
        for name in draw(st.lists(st.sampled_from(NAMES), unique=True, max_size=3)) if depth > 0 else ():
            body, number = query(known, depth - 1)
            parts.append(f"{name} AS ({body})")
            # Known from here on, to what comes after it and lies within that; not to itself.
            known = {**known, name: number}
        one, first = value(known, depth)
        two, second = value(known, depth)
        head = f"WITH {', '.join(parts)} " if parts else ""
        return f"{head}SELECT {one} + {two} AS n", first + second

    return query({}, draw(st.integers(1, 3)))


@settings(max_examples=80, deadline=None, suppress_health_check=list(HealthCheck))
@given(made=nested())
def test_each_name_means_the_nearest_that_is_known_there(
    made: tuple[str, int], ferries: Path, catalog: Catalog
) -> None:
    sql, number = made
    ruled = rule_on_text(DraftedStatement(sql), "sqlite", catalog, Policy())
    assert ruled.statement is not None, (sql, ruled.findings)
    (tree,) = parse(ruled.statement.sql, "sqlite")
    names = [cte.alias.casefold() for cte in tree.find_all(exp.CTE)]
    assert len(names) == len(set(names)), ruled.statement.sql
    connection = sqlite3.connect(f"file:{ferries}?mode=ro", uri=True)
    try:
        assert connection.execute(ruled.statement.sql).fetchall() == [(number,)], (sql, ruled.statement.sql)
    finally:
        connection.close()
