"""A share is divided by the whole that the question means, under the same conditions.

Bad:  SELECT channel, 100.0 * COUNT(*) / (SELECT COUNT(*) FROM booking) FROM booking WHERE booked_at >= '2026-04-01' …
Good: … / (SELECT COUNT(*) FROM booking WHERE booked_at >= '2026-04-01' …)
"""

from __future__ import annotations

from sqlglot import exp

from harquel.contract import Finding
from harquel.core.review.context import ReviewContext, known_of
from harquel.core.review.statement import called, is_aggregate
from harquel.core.review.times import is_temporal

CODE = "wrong-whole"


def shares(context: ReviewContext) -> list[Finding]:
    """Findings on shares that are counts, and on shares of another whole."""
    found: list[Finding] = []
    levels = context.statement.levels
    if "share" in context.question.has and not _any_share(context) and not _averages_a_flag(context):
        message = "The question asks for a share; the query divides by nothing."
        found.append(context.finding("no-share", "error", message, "Divide by the whole."))
    outer = context.statement.outer
    for level in levels:
        if level.role != "scalar" or level.parent is not outer or not isinstance(_parent(level.select), exp.Div):
            continue
        times = {r.key for c in outer.conditions if c.ref and is_temporal(c.ref.column) for r in (c.ref,)}
        inside = {c.ref.key for c in level.conditions if c.ref is not None}
        correlated = any(c.other is not None for c in level.conditions)
        missing = sorted(
            t for t in times if t not in inside and t[0] in {p.table.name for p in level.parts.values() if p.table}
        )
        if missing and not correlated:
            message = (
                f"The whole is counted over all times; the part only where {missing[0][0]}.{missing[0][1]} is limited."
            )
            found.append(context.finding(CODE, "error", message, "Give the whole the same limit.", level.select))
            continue
        extra = {k for c in level.conditions for k in known_of(c)} - {k for c in outer.conditions for k in known_of(c)}
        if extra and not correlated and "is not null" in {k[2] for k in extra}:
            message = "The whole leaves out rows that the part may hold."
            found.append(context.finding(CODE, "warning", message, "Count the whole over the same rows.", level.select))
    return found


def _any_share(context: ReviewContext) -> bool:
    for level in context.statement.levels:
        for projection in level.select.expressions:
            for node in projection.walk():
                if isinstance(node, exp.Div):
                    return True
                if isinstance(node, exp.Avg) and (
                    node.find(exp.Case) or any(isinstance(node.this, k) for k in (exp.EQ, exp.Predicate))
                ):
                    return True
                if isinstance(node, exp.Window) and is_aggregate(node.this):
                    return True
    return False


def _averages_a_flag(context: ReviewContext) -> bool:
    """The average of yes and no is the share of yes."""
    return any(
        isinstance(n, exp.Avg) and (r := context.statement.ref(n.this)) is not None and r.column.kind == "boolean"
        for level in context.statement.levels for n in level.aggregates
    )  # fmt: skip


def _parent(node: exp.Expr) -> exp.Expr | None:
    parent = node.parent
    between = (exp.Subquery, exp.Paren, exp.Mul, exp.Cast, exp.Nullif)
    while parent is not None and (isinstance(parent, between) or called(parent) == "NULLIF"):
        parent = parent.parent
    return parent
