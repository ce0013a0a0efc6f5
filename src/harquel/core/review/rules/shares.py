"""A whole is counted over the same rows as its part: what limits the times of one limits those of the other.

Bad:  SELECT channel, 100.0 * COUNT(*) / (SELECT COUNT(*) FROM booking) FROM booking WHERE booked_at >= '2026-04-01' …
Good: … / (SELECT COUNT(*) FROM booking WHERE booked_at >= '2026-04-01' …)
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.known import known_of
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import called

CODE = "wrong-whole"


@rule(CODE)
def shares(context: ReviewContext) -> list[Finding]:
    """One finding for each whole, a query of its own that is divided by, over other rows than its part."""
    found: list[Finding] = []
    outer = context.statement.outer
    for level in context.statement.levels:
        if level.role != "scalar" or level.parent is not outer or not isinstance(_parent(level.select), exp.Div):
            continue
        times = {c.ref.key for c in outer.conditions if c.ref and is_temporal(c.ref.column)}
        inside = {c.ref.key for c in level.conditions if c.ref is not None}
        if any(c.other is not None for c in level.conditions):
            continue  # it is another whole for each row
        tables = {p.table.name for p in level.parts.values() if p.table}
        missing = sorted(t for t in times if t not in inside and t[0] in tables)
        if missing:
            limited = f"{missing[0][0]}.{missing[0][1]}"
            message = f"The whole is counted over all times; the part only where {limited} is limited."
            found.append(context.finding(CODE, "error", message, "Give the whole the same limit.", level.select))
            continue
        extra = {k for c in level.conditions for k in known_of(c)} - {k for c in outer.conditions for k in known_of(c)}
        if "is not null" in {k[2] for k in extra}:
            message = "The whole leaves out rows that the part may hold."
            found.append(context.finding(CODE, "warning", message, "Count the whole over the same rows.", level.select))
    return found


def _parent(node: exp.Expr) -> exp.Expr | None:
    parent = node.parent
    between = (exp.Subquery, exp.Paren, exp.Mul, exp.Cast, exp.Nullif)
    while parent is not None and (isinstance(parent, between) or called(parent) == "NULLIF"):
        parent = parent.parent
    return parent
