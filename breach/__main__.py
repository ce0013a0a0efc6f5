"""`make breach`: prints what came of every attack and every honest query, and writes it to var/breach.json.

Ends with 1 when anything got through or an honest query was turned away.
"""

from __future__ import annotations

import json
import logging
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.console import Console
from rich.table import Table

from breach.attack import AttackReport, run_attacks
from breach.corpus import ENGINES
from breach.fuzz import FuzzReport, run_fuzz
from breach.honest import HonestReport, run_honest
from breach.past_the_rules import RestrictedReport, run_maze
from breach.restricted import two_sides
from breach.targets import Target, targets

out = Console(width=110)
Reports = tuple[HonestReport, AttackReport, FuzzReport, RestrictedReport]


def main(
    engine: Annotated[list[str] | None, typer.Option(help="only this engine")] = None,
    generated: Annotated[int, typer.Option(help="statements to generate for each engine")] = 10_000,
    seconds: Annotated[float, typer.Option(help="seconds that each engine may spend on them")] = 240,
    restricted: Annotated[int, typer.Option(help="statements of restricted people for each engine")] = 20_000,
    restricted_seconds: Annotated[float, typer.Option(help="seconds that each engine may spend on these")] = 1800,
    seed: Annotated[int, typer.Option(help="which statements of restricted people: another, others")] = 1,
) -> None:
    """All engines beside each other, each with databases of its own."""
    logging.disable(logging.ERROR)
    wanted = tuple(engine or ENGINES)
    with tempfile.TemporaryDirectory(prefix="harquel-breach-") as name:
        folder = Path(name)
        # The servers run as users of their own.
        folder.chmod(0o755)
        out.print("[dim]… starting the databases and filling them[/]")
        with targets(folder, wanted) as made, ThreadPoolExecutor(len(made)) as threads:
            found_first = list(threads.map(lambda t: _run(t, generated, seconds), made))
            mazes = threads.map(lambda t: _restricted(t, folder, restricted, restricted_seconds, seed), made)
            reports = [(*first, maze) for first, maze in zip(found_first, mazes, strict=True)]
    failures = _show(reports)
    path = Path("var") / "breach.json"
    path.parent.mkdir(exist_ok=True)
    found = {h.engine: {"honest": h, "attacks": a, "generated": f, "restricted": r} for h, a, f, r in reports}
    path.write_text(json.dumps(found, indent=2, default=vars) + "\n")
    out.print(f"Also in {path}.")
    raise SystemExit(1 if failures else 0)


def tell(text: str) -> None:
    """A line on the way."""
    out.print(f"[dim]… {text}[/]", highlight=False)


def _restricted(target: Target, folder: Path, count: int, seconds: float, seed: int) -> RestrictedReport:
    own = folder / f"restricted-{target.name}"
    own.mkdir()
    # Small worlds, so that joins without a condition stay cheap.
    with two_sides(target.name, own, getattr(target, "server", None), 0.02, 1.0) as sides:
        return run_maze(target.name, sides, count, seconds, tell, seed)


def _run(target: Target, generated: int, seconds: float) -> tuple[HonestReport, AttackReport, FuzzReport]:
    honest = run_honest(target)
    tell(f"{target.name}, honest queries: {honest.count}")
    return honest, run_attacks(target, tell), run_fuzz(target, generated, seconds, tell)


def _table(reports: list[Reports]) -> Table:
    table = Table(title="Guard and sandbox under attack")
    table.add_column("")
    for first, _, _, _ in reports:
        table.add_column(first.engine, justify="right")

    def row(name: str, values: list[Any]) -> None:
        table.add_row(name, *[f"{v:,}" if isinstance(v, int) else str(v) for v in values])

    honest, attacks, fuzz, mazes = zip(*reports, strict=True)
    row("honest queries", [h.count for h in honest])
    row("  turned away, broken or with other rows", [h.failures for h in honest])
    row("attacks", [a.base for a in attacks])
    row("  thrown, disguises counted", [a.thrown for a in attacks])
    row("  refused by the guard", [a.guard["refused"] for a in attacks])
    row("  let run: ended by the sandbox", [a.guard["stopped"] for a in attacks])
    row("  let run: did nothing, showed nothing withheld", [a.guard["harmless"] for a in attacks])
    row("  sandbox alone: ended", [a.alone["stopped"] for a in attacks])
    row("  sandbox alone: did nothing", [a.alone["harmless"] for a in attacks])
    row("  longest wait at a limit of 1 s", [f"{a.slowest_s:.1f} s" for a in attacks])
    row("generated statements", [f.count for f in fuzz])
    row("  let run", [f.count - f.verdicts["refused"] for f in fuzz])
    row("  over which the guard stumbled", [f.stumbles for f in fuzz])
    row("statements of restricted people", [m.count for m in mazes])
    row("  gave the rows of the cut world", [m.verdicts["rows"] - len(m.escapes) for m in mazes])
    row("  could not be proved", [m.stumbles for m in mazes])
    row("escapes", [len(a.escapes) + len(f.escapes) + len(m.escapes) for _, a, f, m in reports])
    return table


def _show(reports: list[Reports]) -> int:
    out.print(_table(reports))
    for h, a, f, m in reports:
        wrong = {**h.invalid, **h.refused, **h.broken, **h.different, **a.escapes, **f.escapes, **m.escapes}
        for sql, why in wrong.items():
            out.print(f"{h.engine}: {sql!r}\n    {why}", highlight=False, markup=False)
    return sum(
        h.failures + len(a.escapes) + len(f.escapes) + f.stumbles + len(m.escapes) + m.stumbles
        for h, a, f, m in reports
    )


if __name__ == "__main__":
    typer.run(main)
