"""Whole numbers divided by whole numbers lose the fraction.

Bad:  SELECT SUM(CASE WHEN status = 'X' THEN 1 ELSE 0 END) / COUNT(*) FROM sailing
Good: SELECT 1.0 * SUM(CASE WHEN status = 'X' THEN 1 ELSE 0 END) / COUNT(*) FROM sailing
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Level, called, within
from harquel.core.sql.dialects import DIALECTS

CODE = "integer-division"


@rule(CODE)
def integer_division(context: ReviewContext) -> list[Finding]:
    """One finding for each division in what is shown that cuts the fraction off."""
    kinds = DIALECTS[context.engine].cuts
    found = []
    for level in context.statement.levels:
        for projection in level.select.expressions:
            for node in within(projection):
                if (
                    isinstance(node, kinds)
                    and _whole(context, node.this, level)
                    and _whole(context, node.expression, level)
                ):
                    message = said_as("caveat-integer-division")
                    found.append(
                        context.finding(CODE, "error", message, "Multiply by 1.0 first, or divide by 100.0.", node)
                    )
    return found


def _whole(context: ReviewContext, node: exp.Expr, level: Level) -> bool:
    """Whether an expression is certain to be a whole number."""
    if isinstance(node, exp.Count):
        return True
    if isinstance(node, exp.Literal):
        return not node.is_string and str(node.this).isdigit()
    if isinstance(node, exp.Column):
        return _whole_column(context, node, level)
    if isinstance(node, exp.Subquery):
        inner = next((lv for lv in context.statement.levels if lv.select is node.find(exp.Select)), None)
        return inner is not None and _whole(context, inner.select.expressions[0].unalias(), inner)
    made_of = _made_of(node)
    return bool(made_of) and all(_whole(context, n, level) for n in made_of)


def _made_of(node: exp.Expr) -> list[exp.Expr]:
    """The expressions that decide the kind of one; none where something else does."""
    if called(node) == "NULLIF":
        return [node.expressions[0]]
    if isinstance(node, exp.Distinct):
        return [node.expressions[0]]
    if isinstance(node, exp.Paren | exp.Sum | exp.Max | exp.Min | exp.Neg | exp.Nullif | exp.Window):
        return [node.this]
    if isinstance(node, exp.Coalesce):
        return [node.this, *node.expressions]
    if isinstance(node, exp.Case):
        default = node.args.get("default")
        return [b.args["true"] for b in node.args["ifs"]] + ([default] if default is not None else [])
    if isinstance(node, exp.Add | exp.Sub | exp.Mul | exp.Div):
        return [node.this, node.expression]
    return []


def _whole_column(context: ReviewContext, node: exp.Column, level: Level) -> bool:
    ref = context.statement.ref(node)
    if ref is None:
        return context.statement.once("whole", node, level, False, lambda: _behind(context, node, level))
    counts = ref.column.kind == "boolean" and DIALECTS[context.engine].booleans_are_whole
    return counts or "INT" in ref.column.type.upper()


def _behind(context: ReviewContext, node: exp.Expr, level: Level) -> bool:
    source, where = context.statement.origin(node, level)
    return source is not node and _whole(context, source, where)
