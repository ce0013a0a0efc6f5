"""`make trust`: what becomes of wrong drafts and of right ones, as a table, in var/trust.json and docs/trust.md.

Ends with 1 when a bound is broken.
"""

from __future__ import annotations

import json
import logging
import sys
import tempfile
from pathlib import Path

from rich.console import Console
from rich.table import Table

from harquel.testing.model import simulated_model
from trust.measure import Asked, Report, answered_well, measure_drafts, measure_models
from trust.readers import Corpus, corpora

MODELS = ["careful", "careless-0.3", "careless-0.6", "stubborn"]
MOST_SILENT, MOST_ALARMS, MOST_ALARMS_ELSEWHERE = 0.01, 0.12, 0.20
NEVER_SILENT = {
    "names": ("similar table", "unknown column", "wrong column"),
    "values": ("unknown value", "wrong case", "wrong code", "wrong value"),
    "joins": ("no join condition", "wrong key", "left join undone", "left join counts itself", "half of the keys"),
    "fan-out": ("fan-out sum", "fan-out count", "fan-out average"),
    "limits": ("unasked limit", "wrong limit", "top without order", "top without limit", "wrong order"),
    "units": ("unit mixed up",),
}
DOC = Path(__file__).parent.parent / "docs" / "trust.md"
BEGIN, END = "<!-- figures, written by make trust -->", "<!-- end of the figures -->"


def main() -> int:
    """Measures, shows, writes."""
    logging.disable(logging.ERROR)
    out = Console(width=110)
    with tempfile.TemporaryDirectory(prefix="harquel-trust-") as name, simulated_model() as url:
        found: list[tuple[Corpus, Report]] = []
        for corpus in corpora(Path(name)):
            out.print(f"[dim]… {corpus.name}: {len(corpus.drafts)} drafts, each through whole inquiries[/]")
            found.append((corpus, measure_drafts(corpus.drafts, corpus.around, corpus.readings)))
        (demo, report), *others = found
        out.print("[dim]… a model that slips, with a reader beside it and without any check[/]")
        questions = answered_well(demo.drafts, url, demo.around)
        asked = measure_models(questions, MODELS, url, demo.around)
    _show(out, report, asked)
    faults = _faults(report, asked)
    for other, its in others:
        out.print(f"{other.name.capitalize()}: {_in_short(its)}")
        faults += [f"{other.name.capitalize()}: {f}" for f in _faults(its, [], MOST_ALARMS_ELSEWHERE)]
    for fault in faults:
        out.print(f"[bold red]{fault}[/]")
    for missed in [m for r in (report, *(f for _, f in others)) for m in r.missed]:
        out.print(f"silent: {missed}", soft_wrap=True, highlight=False)
    for alarm in [a for r in (report, *(f for _, f in others)) for a in r.alarms]:
        out.print(f"false alarm: {alarm}", soft_wrap=True, highlight=False)
    target = Path("var") / "trust.json"
    target.parent.mkdir(exist_ok=True)
    written = {**_figures_of(report), "models": [vars(a) for a in asked],
               "elsewhere": {other.name: _figures_of(its) for other, its in others}}  # fmt: skip
    target.write_text(json.dumps(written, indent=2, ensure_ascii=False) + "\n")
    head, _, rest = DOC.read_text("utf-8").partition(BEGIN)
    tail = rest.partition(END)[2]
    lines = "\n".join(f"- {other.name}: {_in_short(its)}" for other, its in others)
    text = f"{_document(report, asked)}\nOver other schemas:\n\n{lines}"
    DOC.write_text(f"{head}{BEGIN}\n\n{text}\n\n{END}{tail}", "utf-8")
    out.print(f"Also in {target} and docs/trust.md.")
    return 1 if faults else 0


def _figures_of(report: Report) -> dict[str, object]:
    return {"drafts": [vars(k) for k in report.kinds.values()], "right": report.right,
            "false_alarms": report.alarms, "silent": report.missed}  # fmt: skip


def _total(report: Report) -> tuple[int, int, int, int, int]:
    kinds = report.kinds.values()
    return (
        sum(k.drafts for k in kinds), sum(k.found for k in kinds), sum(k.repaired for k in kinds),
        sum(k.announced for k in kinds), sum(k.silent for k in kinds),
    )  # fmt: skip


def _in_short(report: Report) -> str:
    drafts, found, repaired, announced, silent = _total(report)
    return (
        f"{drafts} wrong drafts in {len(report.kinds)} kinds, {found} found, {repaired} repaired, "
        f"{announced} announced, {silent} silent; {report.right} right drafts, {report.false_alarms} doubted."
    )


def _faults(report: Report, asked: list[Asked], most_alarms: float = MOST_ALARMS) -> list[str]:
    drafts, _, _, _, silent = _total(report)
    faults = []
    if silent > MOST_SILENT * drafts:
        faults.append(f"{silent} of {drafts} wrong drafts went out unannounced: more than {MOST_SILENT:.0%}.")
    for name, kinds in NEVER_SILENT.items():
        count = sum(report.kinds[k].silent for k in kinds if k in report.kinds)
        if count:
            faults.append(f"{count} wrong drafts in {name} went out unannounced; none may.")
    if report.false_alarms > most_alarms * report.right:
        faults.append(
            f"{report.false_alarms} of {report.right} right drafts were doubted: more than {most_alarms:.0%}."
        )
    if asked and asked[0].questions < 60:
        faults.append(f"Only {asked[0].questions} questions could be put to the models; at least 60 are wanted.")
    return faults


def _show(out: Console, report: Report, asked: list[Asked]) -> None:
    table = Table(title="Wrong drafts")
    for head in ("kind", "drafts", "found", "repaired", "announced", "silent"):
        table.add_column(head, justify="left" if head == "kind" else "right")
    for kind in sorted(report.kinds.values(), key=lambda k: k.name):
        table.add_row(
            kind.name, *(str(n) for n in (kind.drafts, kind.found, kind.repaired, kind.announced, kind.silent))
        )
    table.add_section()
    table.add_row("all", *map(str, _total(report)))
    out.print(table)
    out.print(
        f"Right drafts: {report.right}, doubted {report.false_alarms} ({report.false_alarms / report.right:.1%})."
    )
    models = Table(title=f"Models that slip, {asked[0].questions if asked else 0} questions")
    for head in ("model", "read", "right", "repaired", "announced", "silent", "right, doubted", "tokens an answer"):
        models.add_column(head, justify="left" if head in ("model", "read") else "right")
    for row in asked:
        models.add_row(row.model, "yes" if row.reviewed else "no",
                       *(_share(n, row) for n in _figures(row)), _tokens(row))  # fmt: skip
    out.print(models)


def _figures(row: Asked) -> tuple[int, ...]:
    return row.right, row.repaired, row.announced, row.silent, row.doubted


def _tokens(row: Asked) -> str:
    """Of models, for a question that was answered: what reading costs stands beside what it finds."""
    return f"{row.tokens / row.answered:,.0f}" if row.answered else "–"


def _share(count: int, row: Asked) -> str:
    return f"{count / row.questions:.0%}" if row.questions else "–"


def _document(report: Report, asked: list[Asked]) -> str:
    lines = ["| kind of wrong draft | drafts | found | repaired | announced | silent |", "|---|--:|--:|--:|--:|--:|"]
    for kind in sorted(report.kinds.values(), key=lambda k: k.name):
        lines.append(
            f"| {kind.name} | {kind.drafts} | {kind.found} | {kind.repaired} | {kind.announced} | {kind.silent} |"
        )
    lines.append("| **all** | " + " | ".join(f"**{n}**" for n in _total(report)) + " |")
    lines += [
        "",
        f"Right drafts: {report.right}; doubted all the same: {report.false_alarms} "
        f"({report.false_alarms / report.right:.1%}).",
        "",
    ]
    if asked:
        lines += [f"Over {asked[0].questions} questions that the simulated model can answer:", "",
                  "| model | read | right | of them repaired | wrong, announced | wrong, silent | right, doubted "
                  "| tokens an answer |",
                  "|---|---|--:|--:|--:|--:|--:|--:|"]  # fmt: skip
        for row in asked:
            lines.append(
                f"| {row.model} | {'yes' if row.reviewed else 'no'} | "
                + " | ".join([*(_share(n, row) for n in _figures(row)), _tokens(row)])
                + " |"
            )
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    sys.exit(main())
