"""The guard against what the SQL library itself needs to parse, qualify and render a statement."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

import sqlglot
from sqlglot.optimizer.qualify import qualify

from benchmarks.figure import Figure, median_ms
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.engines import SqliteEngine
from harquel.core.guard import rule_on_text

STATEMENTS = (
    "SELECT COUNT(*) FROM sailing WHERE status = 'X' AND scheduled_departure >= '2026-08-01'",
    "SELECT r.code, SUM(b.total_cents) / 100.0 AS eur FROM booking AS b JOIN sailing AS s ON s.id = b.sailing_id "
    "JOIN route AS r ON r.id = s.route_id JOIN customer AS c ON c.id = b.customer_id WHERE b.status = 'confirmed' "
    "AND NOT c.is_staff GROUP BY r.code ORDER BY eur DESC LIMIT 5",
    "WITH carried AS (SELECT b.sailing_id, SUM(i.quantity) AS n FROM booking AS b JOIN booking_item AS i "
    "ON i.booking_id = b.id WHERE i.kind = 'foot' GROUP BY b.sailing_id) SELECT v.name, SUM(c.n) FROM sailing AS s "
    "JOIN vessel AS v ON v.id = s.vessel_id LEFT JOIN carried AS c ON c.sailing_id = s.id GROUP BY v.name",
)


def measure(folder: Path) -> list[Figure]:
    """Milliseconds per statement, median over the three."""
    policy = Policy()
    catalog = SqliteEngine(folder / "ferries.db").scan(policy, dt.datetime.now(dt.UTC))
    schema = {t.name: {c.name: c.type or "TEXT" for c in t.columns} for t in catalog.tables}

    def library() -> None:
        for sql in STATEMENTS:
            tree = sqlglot.parse_one(sql, dialect="sqlite")
            qualify(tree, schema=schema, dialect="sqlite", quote_identifiers=False).sql("sqlite")

    def ours() -> None:
        for sql in STATEMENTS:
            assert rule_on_text(DraftedStatement(sql), "sqlite", catalog, policy).statement is not None

    base = median_ms(library) / len(STATEMENTS)
    return [Figure("guard, per statement", median_ms(ours) / len(STATEMENTS), "ms", base, "parse, qualify, render")]
