"""`make bench`: prints all figures as a table and writes them to var/bench.json.

`python -m benchmarks NAME …` makes some parts only, by the names that `--help` prints, and writes nothing.
"""

from __future__ import annotations

import argparse
import json
import shutil
import tempfile
from pathlib import Path

from rich.console import Console
from rich.table import Table

from benchmarks import (
    adversarial,
    askers,
    briefing,
    crowd,
    deliveries,
    endurance,
    guard,
    hostile,
    in_a_row,
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
    guard, adversarial, hostile, ledger, review, sandbox, deliveries, briefing, structure, own_time, askers, in_a_row,
    processes, streams, crowd, slips, endurance,
)  # fmt: skip


def main() -> None:
    """Runs every part, or those named, on a demo database of their own."""
    names = {part.__name__.rpartition(".")[2]: part for part in PARTS}
    listed = "\n".join(f"  {name:12} {(part.__doc__ or '').strip().splitlines()[0]}" for name, part in names.items())
    asked = argparse.ArgumentParser(
        prog="python -m benchmarks", description="Figures of speed beside their baselines.", epilog=f"parts:\n{listed}",
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )  # fmt: skip
    asked.add_argument("part", nargs="*", metavar="PART", help="one of those below; all of them, where none is named")
    given = asked.parse_args().part
    if unknown := [name for name in given if name not in names]:
        asked.error(f"there is no part {unknown[0]}; there are {', '.join(names)}")
    parts = [names[name] for name in given] or PARTS
    out = Console(width=100)
    with tempfile.TemporaryDirectory(prefix="harquel-bench-") as name:
        folder = Path(name)
        load(folder / "ferries.db")
        figures: list[Figure] = []
        for part in parts:
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
    if given:
        return
    target = Path("var") / "bench.json"
    target.parent.mkdir(exist_ok=True)
    target.write_text(json.dumps([vars(f) for f in figures], indent=2) + "\n")
    out.print(f"Also in {target}.")


if __name__ == "__main__":
    main()
