"""The guard against what the SQL library itself needs to parse, qualify and render a statement."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import sqlglot
from breach.corpus import ENGINES, honest
from sqlglot.errors import SqlglotError
from sqlglot.optimizer.qualify import qualify

from benchmarks.figure import Figure
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.guard import rule_on_text
from harquel.testing.sources import scanned

_DIALECTS = {"sqlite": "sqlite", "postgresql": "postgres", "mariadb": "mysql"}
_HOMES = {"sqlite": "main", "postgresql": "public", "mariadb": "ferries"}


def measure(folder: Path) -> list[Figure]:
    """Milliseconds per statement over the honest corpus of each engine, medians; the ratio is a median too."""
    policy = Policy(withhold_delicate=False)
    scan = scanned(folder / "ferries.db", policy)
    return [_engine(engine, replace(scan, engine=engine, default_schema=_HOMES[engine]), policy) for engine in ENGINES]


def _engine(engine: str, catalog: Catalog, policy: Policy) -> Figure:
    schema: dict[str, object] = {t.name: {c.name: c.type or "TEXT" for c in t.columns} for t in catalog.tables}
    dialect = _DIALECTS[engine]

    def library(sql: str) -> None:
        tree = sqlglot.parse_one(sql, dialect=dialect)
        qualify(tree, schema=schema, dialect=dialect, quote_identifiers=False).sql(dialect)

    def ours(sql: str) -> None:
        rule_on_text(DraftedStatement(sql), engine, catalog, policy)

    pairs = []
    for sql in honest(engine):
        try:
            library(sql)
        except SqlglotError:
            continue  # the library itself cannot qualify it
        pairs.append((best_ms(lambda sql=sql: ours(sql)), best_ms(lambda sql=sql: library(sql))))  # type: ignore[misc]
    base = statistics.median(b for _, b in pairs)
    value = base * statistics.median(o / b for o, b in pairs)
    return Figure(f"guard, per statement, {len(pairs)} of {engine}", value, "ms", base, "parse, qualify, render")


def best_ms(work: Callable[[], object], times: int = 5) -> float:
    """The shortest of several runs, in milliseconds."""
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        work()
        taken.append((time.perf_counter() - started) * 1000)
    return min(taken)
