"""Equal amounts are different amounts: DISTINCT inside a sum or an average drops them.

Bad:  SELECT SUM(DISTINCT amount_eur) FROM payment
Good: SELECT SUM(amount_eur) FROM payment
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import calendar_unit
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule

CODE = "distinct-drops"


@rule(CODE, "distinct-missing", needs="statement")
def distinct(context: ReviewContext) -> list[Finding]:
    """Findings on DISTINCT where it drops what counts, and on its want where different things are counted."""
    found = []
    counted = [n for lv in context.statement.levels for n in lv.aggregates if isinstance(n, exp.Count)]
    for level in context.statement.levels:
        for node in level.aggregates:
            inner = getattr(node, "this", None)
            if not isinstance(inner, exp.Distinct):
                continue
            refs = context.statement.refs(node)
            if isinstance(node, exp.Sum | exp.Avg):
                message = f"{node.key.upper()}(DISTINCT …) takes equal values once only."
                found.append(context.finding(CODE, "error", message, "Leave DISTINCT out.", node))
            elif len(refs) == 1 and refs[0].column.kind == "number" and not _names_things(refs[0]):
                message = f"It counts the different values of {refs[0]}, not what they belong to."
                found.append(context.finding(CODE, "error", message, "Count rows, or a key.", node))
    unit = context.question.counted_unit
    if unit and counted and not _tells(context, unit):
        message = f"The question counts {unit}s; the query counts rows, of which there can be several each {unit}."
        found.append(context.finding("distinct-missing", "error", message, f"Count each {unit} once.", counted[0]))
    elif "distinct" in context.question.has and counted and not _any_distinct(context):
        message = "The question asks for different ones; the query can count the same one again."
        found.append(context.finding("distinct-missing", "error", message, "Write COUNT(DISTINCT …).", counted[0]))
    elif {"distinct", "how many"} <= context.question.has and not counted and not _any_distinct(context):
        message = "The question counts different ones; the query does not count."
        found.append(context.finding("distinct-missing", "error", message, "Write COUNT(DISTINCT …)."))
    return found


def _names_things(ref: object) -> bool:
    column, table = ref.column, ref.table  # type: ignore[attr-defined]
    return column.primary_key or column.unique or any(column.name in k.columns for k in table.foreign_keys)


def _tells(context: ReviewContext, unit: str) -> bool:
    return any(
        calendar_unit(n, context.statement).startswith(unit)
        for lv in context.statement.levels
        for n in (
            *lv.groups,
            *(x for a in lv.aggregates if isinstance(a.this, exp.Distinct) for x in a.this.expressions),
        )
    )


def _any_distinct(context: ReviewContext) -> bool:
    """DISTINCT, a group, or a count of rows of which each is one already."""
    for level in context.statement.levels:
        if level.select.args.get("distinct") or any(isinstance(a.this, exp.Distinct) for a in level.aggregates):
            return True
        if level is not context.statement.outer and level.groups:
            return True
    outer = context.statement.outer
    return len(outer.parts) == 1 and any(c.role == "exists" for c in context.statement.levels)
