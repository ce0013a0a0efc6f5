"""Rows without a value are neither equal nor unequal to anything: the query says what becomes of them.

Bad:  SELECT COUNT(*) FROM booking WHERE channel = NULL
Good: SELECT COUNT(*) FROM booking WHERE channel IS NULL
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition, Level, within

CODE = "null-compared"


@rule(CODE, "not-in-nullable", "nulls-lost", "null-as-zero", "counts-nothing")
def nulls(context: ReviewContext) -> list[Finding]:
    """Findings on comparisons with NULL, on NOT IN over columns with gaps, and on gaps that are lost or made zero."""
    found = []
    for condition in context.statement.conditions:
        if isinstance(condition.other, exp.Null):
            message = said_as("caveat-null-compared")
            found.append(context.finding(CODE, "error", message, "Write IS NULL or IS NOT NULL.", condition.node))
        elif condition.op == "not in" and condition.other is not None:
            found += _not_in(context, condition)
        elif condition.op in ("<>", "not in", "not like") and condition.bare:
            found += _lost(context, condition)
    for level in context.statement.levels:
        for node in level.aggregates:
            found += _gaps(context, node, level)
    return found


def _not_in(context: ReviewContext, condition: Condition) -> list[Finding]:
    inner = next((lv for lv in context.statement.levels if lv.select is condition.other.find(exp.Select)), None)  # type: ignore[union-attr]
    if inner is None or not inner.select.expressions:
        return []
    ref = context.statement.ref(inner.select.expressions[0].unalias())
    if ref is None or not ref.column.nullable or ref.column.primary_key:
        return []
    behind = context.catalog.behind(ref.table)
    column = behind.column(ref.column.name) if behind is not None else None
    if column is not None and (column.primary_key or not column.nullable):
        return []
    if (*ref.key, "is not null", None) in context.said:
        return []
    message = said_as("caveat-not-in-nullable", column=str(ref))
    return [
        context.finding(
            "not-in-nullable",
            "error",
            message,
            f"Add {ref.column.name} IS NOT NULL inside, or use NOT EXISTS.",
            condition.node,
        )
    ]


def _lost(context: ReviewContext, condition: Condition) -> list[Finding]:
    """A difference that drops rows without a value, where others speak of them."""
    ref = condition.ref
    if ref is None or not ref.column.nullable or not ref.column.null_share or condition.either:
        return []
    about = context.about(*ref.key)
    # Where having no value is no answer to the question, nothing is lost: there is no reason for what did not happen.
    if not about.null_means:
        return []
    message = said_as("caveat-nulls-lost", column=str(ref), means=about.null_means)
    return [
        context.finding(
            "nulls-lost", "warning", message, f"Add OR {ref.column.name} IS NULL, if they belong to it.", condition.node
        )
    ]


def _gaps(context: ReviewContext, node: exp.Expr, level: Level) -> list[Finding]:
    inner = getattr(node, "this", None)
    if isinstance(node, exp.Avg) and isinstance(inner, exp.Coalesce) and _is_zero(inner.expressions[:1]):
        message = said_as("caveat-null-as-zero")
        return [context.finding("null-as-zero", "error", message, "Leave COALESCE out of the average.", node)]
    ref = context.statement.ref(inner)
    if isinstance(node, exp.Count) and ref is not None and (*ref.key, "is null", None) in context.said:
        message = said_as("caveat-counts-nothing", column=str(ref))
        return [context.finding("counts-nothing", "error", message, "Write COUNT(*).", node)]
    if (
        isinstance(node, exp.Count)
        and isinstance(inner, exp.Star)
        and isinstance(node.parent, exp.Div)
        and node.parent.expression is node
    ):
        summed = next((n for n in within(node.parent.this) if isinstance(n, exp.Sum)), None)
        gap = (
            next((r for r in context.statement.refs(summed) if r.column.nullable), None) if summed is not None else None
        )
        if gap is not None and not summed.find(exp.Case) and (*gap.key, "is not null", None) not in context.said:  # type: ignore[union-attr]
            message = said_as("caveat-divided-by-none", column=str(gap))
            return [context.finding("null-as-zero", "error", message, "Use AVG, or count the values.", node)]
    return []


def _is_zero(nodes: list[exp.Expr]) -> bool:
    return bool(nodes) and isinstance(nodes[0], exp.Literal) and str(nodes[0].this) in ("0", "0.0")
