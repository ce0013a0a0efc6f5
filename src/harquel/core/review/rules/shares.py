"""A whole is counted over the same rows as its part: what limits the times of one limits those of the other.

Bad:  SELECT channel, 100.0 * COUNT(*) / (SELECT COUNT(*) FROM booking) FROM booking WHERE booked_at >= '2026-04-01' …
Good: … / (SELECT COUNT(*) FROM booking WHERE booked_at >= '2026-04-01' …)
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.known import known_of
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Level, called

CODE = "wrong-whole"


@rule(CODE)
def shares(context: ReviewContext) -> list[Finding]:
    """One finding for each whole, a query of its own that is divided by, over other rows than its part."""
    outer = context.statement.outer
    wholes = [
        level for level in context.statement.levels
        if level.role == "scalar" and level.parent is outer and isinstance(_parent(level.select), exp.Div)
        # One that names the row outside is another whole for each row.
        and all(c.other is None for c in level.conditions)
    ]  # fmt: skip
    return [found for whole in wholes if (found := _other_rows(context, whole)) is not None]


def _other_rows(context: ReviewContext, whole: Level) -> Finding | None:
    """Whether a whole is taken over other times, or over fewer rows, than the query that divides by it."""
    outer = context.statement.outer
    times = {c.ref.key for c in outer.conditions if c.ref and is_temporal(c.ref.column)}
    inside = {c.ref.key for c in whole.conditions if c.ref is not None}
    tables = {p.table.name for p in whole.parts.values() if p.table}
    missing = sorted(t for t in times - inside if t[0] in tables)
    if missing:
        limited = f"{missing[0][0]}.{missing[0][1]}"
        message = said_as("caveat-wrong-whole-time", column=limited)
        return context.finding(CODE, "error", message, "Give the whole the same limit.", whole.select)
    asked, taken = ({k for c in level.conditions for k in known_of(c)} for level in (outer, whole))
    if any(k[2] == "is not null" for k in taken - asked):
        message = said_as("caveat-wrong-whole")
        return context.finding(CODE, "warning", message, "Count the whole over the same rows.", whole.select)
    return None


def _parent(node: exp.Expr) -> exp.Expr | None:
    parent = node.parent
    between = (exp.Subquery, exp.Paren, exp.Mul, exp.Cast, exp.Nullif)
    while parent is not None and (isinstance(parent, between) or called(parent) == "NULLIF"):
        parent = parent.parent
    return parent
