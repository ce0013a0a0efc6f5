"""Whole results: memory with a million rows beside a hundredth of them, and how fast they come and go."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

from benchmarks.figure import Figure
from harquel.core.domain.statements import RuledStatement
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.sandbox import Sandbox, SandboxLimits

MANY, FEW = 1_000_000, 10_000
SQL = (
    "SELECT a.id, a.customer_id, a.sailing_id, a.booked_at, a.channel, a.status, a.total_cents "
    "FROM booking AS a CROSS JOIN vessel AS b CROSS JOIN vessel AS c CROSS JOIN harbour AS d LIMIT {rows}"
)
READS = {
    "booking": frozenset({"id", "customer_id", "sailing_id", "booked_at", "channel", "status", "total_cents"}),
    "vessel": frozenset({""}), "harbour": frozenset({""}),
}  # fmt: skip


def measure(folder: Path) -> list[Figure]:
    """In a process of its own for each number of rows, so that the largest size of each is seen."""
    few, many = (_of(folder, rows) for rows in (FEW, MANY))
    assert many["rows"] == MANY
    return [
        Figure(f"memory here, {MANY:,} rows delivered and fetched", many["here"], "MB", few["here"], f"{FEW:,} rows"),
        Figure("memory of the worker, the same", many["worker"], "MB", few["worker"], f"{FEW:,} rows"),
        Figure("rows written to a file", MANY / many["write"] / 1000, "thousand/s"),
        Figure("rows fetched as CSV", MANY / many["csv"] / 1000, "thousand/s"),
        Figure("rows fetched as JSON Lines", MANY / many["jsonl"] / 1000, "thousand/s"),
    ]


def _of(folder: Path, rows: int) -> dict[str, Any]:
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.deliveries", str(folder), str(rows)], capture_output=True, text=True,
        check=True,
    )  # fmt: skip
    found: dict[str, Any] = json.loads(done.stdout)
    return found


def _unasked(*_: object) -> Any:
    raise AssertionError("nothing else is asked of this source")


def _main(folder: Path, rows: int) -> dict[str, Any]:
    import resource
    import time

    from harquel.contract import ResultColumn
    from harquel.core.answers.exports.whole import as_pieces
    from harquel.core.briefing import Describer, TokenGauge
    from harquel.core.domain.notes import Notes
    from harquel.core.domain.policy import Delivery, Policy
    from harquel.core.inquiry.source import Source
    from harquel.service.deliveries import Deliveries
    from harquel.testing.scripted import Scripted

    engine, found = SqliteEngine(folder / "ferries.db"), {}
    sandbox = Sandbox(engine, SandboxLimits(60, 1000, 1_000_000, 256 * 2**20), size=1)
    policy = Policy(delivery=Delivery(rows=MANY))
    source = Source(
        "ferries", "sqlite", _unasked, _unasked, Describer(policy, Notes()), _unasked, _unasked, sandbox, Scripted(""),
        TokenGauge(),
    )  # fmt: skip
    room = Deliveries(folder, 10**10)
    room.begin()
    started = time.perf_counter()
    done = room.write("bench", source, RuledStatement(SQL.format(rows=rows), READS, MANY), lambda: False, 300)
    found["write"], found["rows"] = time.perf_counter() - started, done.rows
    columns = [ResultColumn(name=name, type=kind) for name, kind in zip(done.columns, done.types, strict=True)]
    for form in ("csv", "jsonl"):
        started = time.perf_counter()
        lines = room.lines("bench")
        assert lines is not None
        assert sum(piece.count(b"\n") for piece in as_pieces("bench", form, columns, lines).pieces) == rows + 1
        found[form] = time.perf_counter() - started
    found["here"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    sandbox.close()
    found["worker"] = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    return found


if __name__ == "__main__":
    print(json.dumps(_main(Path(sys.argv[1]), int(sys.argv[2]))))
