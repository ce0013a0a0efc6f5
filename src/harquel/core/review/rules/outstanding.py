"""What is overdue or still owed has not come about yet: the query leaves out what has.

Bad:  "orders that are overdue": WHERE due_on < '2026-09-14'
Good: WHERE due_on < '2026-09-14' AND closed_on IS NULL
"""

from __future__ import annotations

from typing import Final

from harquel.core.briefing.words import name_stems
from harquel.core.domain.catalog import Column, Table
from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition
from harquel.core.review.vocabulary import DEADLINES

CODE = "outstanding"
_OWED: Final = frozenset("overdue outstanding owed owing unpaid unsettled undelivered unreturned".split())


@rule(CODE)
def outstanding(context: ReviewContext) -> list[Finding]:
    """One finding where a table that is read says when a thing was settled and the query does not ask for it."""
    words = {w.text for w in context.question.words}
    if not _OWED & words:
        return _still(context) if "still" in words else []
    for part in (p for level in context.statement.levels for p in level.parts.values()):
        settled = _settled(part.table) if part.table is not None else []
        if part.table is None or not settled:
            continue
        told = [c for c in context.statement.conditions if c.ref is not None and c.ref.table is part.table]
        late = [c for c in told if _is_deadline(c) and c.op in (">", ">=") and c.values]
        if late:
            message = "What is overdue was due before now; the query takes what is due later."
            return [context.finding(CODE, "error", message, "Turn the comparison round.", late[0].node)]
        if not any(_asks(c, settled) for c in told):
            names = " or ".join(c.name for c in settled[:2])
            message = f"What is overdue or owed is not settled yet; the query does not look at {names}."
            return [context.finding(CODE, "warning", message, f"Add {settled[0].name} IS NULL.")]
    return []


def _still(context: ReviewContext) -> list[Finding]:
    """Who is still here has not left: a time that by the notes is missing as long as something lasts."""
    tables = {p.table.name: p.table for level in context.statement.levels for p in level.parts.values() if p.table}
    lasting = [
        (table, column) for table in tables.values() for column in table.columns
        if context.about(table.name, column.name).null_means
    ]  # fmt: skip
    if any((t.name, c.name) in context.statement.read for t, c in lasting):
        return []
    for table, column in lasting:
        means = context.about(table.name, column.name).null_means or ""
        if means.startswith("still"):
            message = f"What is {means} has no {table.name}.{column.name}; the query does not look at it."
            return [context.finding(CODE, "warning", message, f"Add {column.name} IS NULL.")]
    return []


def _settled(table: Table) -> list[Column]:
    """Times that a thing gets only once it is settled, in a table that says by when it should be."""
    if not any(_ought(c) for c in table.columns):
        return []
    return [c for c in table.columns if c.nullable and is_temporal(c) and not _ought(c)]


def _ought(column: Column) -> bool:
    return is_temporal(column) and bool(DEADLINES & set(name_stems(column.name)))


def _is_deadline(condition: Condition) -> bool:
    return condition.ref is not None and _ought(condition.ref.column)


def _asks(condition: Condition, settled: list[Column]) -> bool:
    """Whether it looks at the time of settling, or at a state, which can say the same."""
    assert condition.ref is not None
    column = condition.ref.column
    return column in settled or column.kind in ("text", "boolean")
