"""Of two tables made alike, the one is read that the question means.

Bad:  "sailings in August 2026": SELECT COUNT(*) FROM sailing_archive
Good: SELECT COUNT(*) FROM sailing
"""

from __future__ import annotations

from harquel.core.briefing.words import EMPTY, name_stems, stems
from harquel.core.domain.catalog import Table
from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import moment
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.times import Spans, both

CODE = "similar-table"


@rule(CODE)
def similar_table(context: ReviewContext) -> list[Finding]:
    """One finding for each table whose twin fits the question better, by its name or by the time it covers."""
    found = []
    reads = context.statement.names.reads
    for name in reads:
        table = context.catalog.table(name)
        if table is None:
            continue
        for other in context.catalog.tables:
            if other.name in reads or not _alike(table, other):
                continue
            why = _better(context, table, other)
            if why:
                node = next((n for n, t in context.statement.names.tables if t is table), None)
                found.append(context.finding(CODE, "error", f"{name} and {other.name} are made alike. {why}",
                                             f"Read {other.name}.", node))  # fmt: skip
    return found


def _alike(one: Table, other: Table) -> bool:
    if one is other or one.kind != other.kind:
        return False
    left, right = ({c.name for c in t.columns} for t in (one, other))
    shared = set(name_stems(one.plain)) & set(name_stems(other.plain))
    return bool(shared) and len(left & right) >= 0.8 * max(len(left), len(right)) and len(left) > 2


def _better(context: ReviewContext, table: Table, other: Table) -> str:
    own = set(name_stems(table.plain)) - set(name_stems(other.plain))
    theirs = set(name_stems(other.plain)) - set(name_stems(table.plain))
    asked = context.question.stems
    if theirs and theirs <= asked:
        return f"The question speaks of {other.plain.replace('_', ' ')}."
    wanted = tuple((p.start, p.end) for p in context.question.periods)
    here, there = (_covered(context, t) for t in (table, other))
    if wanted and here and there:
        if not both(wanted, here) and both(wanted, there):
            return f"{table.name} has nothing from that time, {other.name} has."
        if both(wanted, here) and not both(wanted, there):
            return ""
    about = set(stems(context.notes.of(table.name).text)) - EMPTY
    if own and not own & asked and not (wanted and here and both(wanted, here)) and about:
        return f"The question does not say {' '.join(sorted(w for w in own))}."
    return ""


def _covered(context: ReviewContext, table: Table) -> Spans:
    when = context.notes.of(table.name).when
    column = table.column(when) if when else None
    low, high = (moment(column.low), moment(column.high)) if column is not None else (None, None)
    return ((low, high),) if low is not None and high is not None else ()
