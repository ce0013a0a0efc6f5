"""What an honest query says and what our rendering of it says are the same, over the whole corpus."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import pytest

from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.policy import Limits, Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.guard import rule_on_text
from harquel.core.sandbox import Sandbox
from harquel.testing.sources import demo_sandbox, scanned
from tests.conftest import DATA

HONEST: list[str] = read_yaml((DATA / "honest.yaml").read_text())
OPEN = Policy(withhold_delicate=False, limits=Limits(rows=100_000))


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    return scanned(ferries, OPEN)


@pytest.fixture(scope="module")
def sandbox(ferries: Path) -> Iterator[Sandbox]:
    made = demo_sandbox(ferries, rows=100_000)
    yield made
    made.close()


@pytest.fixture(scope="module")
def bare(ferries: Path) -> Iterator[sqlite3.Connection]:
    connection = sqlite3.connect(f"file:{ferries}?mode=ro", uri=True)
    yield connection
    connection.close()


def plain(row: tuple[object, ...] | list[object]) -> tuple[str, ...]:
    return tuple("AP8=" if v == b"\x00\xff" else repr(v) for v in row)


@pytest.mark.parametrize("sql", HONEST)
def test_same_rows(sql: str, catalog: Catalog, sandbox: Sandbox, bare: sqlite3.Connection) -> None:
    ruled = rule_on_text(DraftedStatement(sql), "sqlite", catalog, OPEN)
    assert ruled.statement is not None, [f.message for f in ruled.findings]
    # SQLite itself does not take a parenthesis around a whole statement; the guard takes it off.
    wanted = bare.execute(sql.strip("()") if sql.startswith("(") else sql).fetchall()
    got = sandbox.run(ruled.statement).rows
    got = [["AP8=" if v == "AP8=" else v for v in row] for row in got]
    ordered = "ORDER BY" in sql.upper().split(")")[-1]
    left, right = [plain(r) for r in wanted], [tuple("AP8=" if v == "AP8=" else repr(v) for v in r) for r in got]
    assert left == right if ordered else Counter(left) == Counter(right)


@pytest.mark.parametrize("sql", HONEST[:20])
def test_a_second_ruling_changes_nothing_more(sql: str, catalog: Catalog) -> None:
    first = rule_on_text(DraftedStatement(sql), "sqlite", catalog, OPEN).statement
    assert first is not None
    second = rule_on_text(DraftedStatement(first.sql), "sqlite", catalog, OPEN).statement
    assert second == first
