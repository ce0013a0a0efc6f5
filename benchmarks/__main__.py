"""`make bench`: prints all figures as a table and writes them to var/bench.json."""

from __future__ import annotations

import json
import shutil
import tempfile
from pathlib import Path

from rich.console import Console
from rich.table import Table

from benchmarks import (
    adversarial,
    briefing,
    crowd,
    endurance,
    guard,
    hostile,
    ledger,
    own_time,
    processes,
    review,
    sandbox,
    slips,
    streams,
    structure,
)
from benchmarks.figure import Figure
from harquel.demo.load_sqlite import load

PARTS = (
    guard, adversarial, hostile, ledger, review, sandbox, briefing, structure, own_time, processes, streams, crowd,
    slips,
    endurance,
)  # fmt: skip


def main() -> None:
    """Runs every part on a demo database of its own."""
    out = Console(width=100)
    with tempfile.TemporaryDirectory(prefix="harquel-bench-") as name:
        folder = Path(name)
        load(folder / "ferries.db")
        figures: list[Figure] = []
        for part in PARTS:
            out.print(f"… {part.__doc__ or ''}".strip().splitlines()[0], style="dim")
            stage = folder / part.__name__
            stage.mkdir()
            shutil.copyfile(folder / "ferries.db", stage / "ferries.db")
            figures += part.measure(stage)
    table = Table(title="Harquel")
    for head in ("figure", "value", "baseline", "ratio"):
        table.add_column(head, justify="left" if head == "figure" else "right")
    for figure in figures:
        table.add_row(figure.name, figure.shown(), figure.shown_baseline(), figure.ratio())
    out.print(table)
    target = Path("var") / "bench.json"
    target.parent.mkdir(exist_ok=True)
    target.write_text(json.dumps([vars(f) for f in figures], indent=2) + "\n")
    out.print(f"Also in {target}.")


if __name__ == "__main__":
    main()
