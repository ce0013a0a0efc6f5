"""A sandboxed query on a warm worker against the bare driver."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from benchmarks.figure import Figure, median_ms
from harquel.core.domain.policy import Limits
from harquel.core.domain.statements import RuledStatement
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.sandbox import Sandbox, SandboxLimits

SQL = "SELECT id, opened_on, kind, cost_cents FROM maintenance_order LIMIT 100"
READS = {"maintenance_order": frozenset({"id", "opened_on", "kind", "cost_cents"})}


def measure(folder: Path) -> list[Figure]:
    """Milliseconds for a hundred rows, connection included on both sides."""
    path = folder / "ferries.db"

    def bare() -> None:
        connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
        connection.execute(SQL).fetchall()
        connection.close()

    sandbox = Sandbox(SqliteEngine(path), SandboxLimits.of(Limits()))
    try:
        statement = RuledStatement(SQL, READS, 1000)
        value = median_ms(lambda: sandbox.run(statement))
    finally:
        sandbox.close()
    base = median_ms(bare)
    return [
        Figure("sandboxed query of 100 rows", value, "ms", base, "bare driver"),
        Figure("what the sandbox adds", value - base, "ms", 3.0, "aim"),
    ]
