"""Figures that are wanted for each of something are grouped by it.

Bad:  "per month": SELECT strftime('%Y', booked_at), COUNT(*) FROM booking GROUP BY 1
Good: SELECT strftime('%Y-%m', booked_at), COUNT(*) FROM booking GROUP BY 1
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import calendar_unit, is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.question import Per
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Level, Ref
from harquel.core.review.vocabulary import UNITS

CODE = "not-grouped"
_SAME = {
    "month": {"month", "month of year"}, "day": {"day"}, "year": {"year"}, "week": {"week", "week of year"},
    "hour": {"hour", "hour of day"}, "quarter": {"quarter", "quarter of year"}, "weekday": {"weekday"},
}  # fmt: skip


@rule(CODE)
def grouping(context: ReviewContext) -> list[Finding]:
    """One finding for each thing that the figures are wanted for each of and that the query does not tell apart."""
    found = []
    for per in context.question.per:
        if _met(context, per):
            continue
        units = sorted(
            {u for lv in context.statement.levels for g in lv.groups if (u := calendar_unit(g, context.statement))}
        )
        what = per.calendar or per.text
        message = f"The question asks for each {what}; the query does not group by it."
        if per.calendar and units:
            message = f"The question asks for each {what}; the query groups by {', '.join(units)}."
        found.append(context.finding(CODE, "error", message, f"Group by {what}."))
    return found


def _met(context: ReviewContext, per: Per) -> bool:
    if per.calendar:
        if any(_unit(context, g) in _SAME[per.calendar] for lv in context.statement.levels for g in _told_apart(lv)):
            return True
        outer = context.statement.outer
        if (
            not outer.aggregates
            and not outer.groups
            and any(
                (ref := context.statement.ref(node)) is not None and is_temporal(ref.column)
                for node in _told_apart(outer)
            )
        ):
            return True  # the rows are listed by their times
        # On a dashboard with a row for each day there is nothing left to group.
        return per.text in UNITS and _divided(context)
    assert per.mention is not None
    meanings = per.mention.meanings
    if any(m.kind == "column" for m in meanings) and _divided(context) and per.text.casefold() in UNITS:
        return True
    tables = {m.table for m in meanings if m.kind == "table"}
    columns = {(m.table, m.column) for m in meanings if m.kind in ("column", "code")}
    for level in context.statement.levels:
        for node in _told_apart(level):
            for ref, _ in context.statement.deep_refs(node, level):
                if ref.key in columns or (ref.table.name in tables and _names(context, ref)):
                    return True
                if any(k.table in tables and ref.column.name in k.columns for k in ref.table.foreign_keys):
                    return True
                pointed = [
                    (k.table, r) for k in ref.table.foreign_keys for r in k.references if ref.column.name in k.columns
                ]
                if _names(context, ref) and columns & set(pointed):
                    return True
        if "average" in context.question.has and _over_rows_of(context, level, tables):
            return True
        for node in level.aggregates:
            # Per sailing: divided by the number of different sailings.
            if isinstance(node, exp.Count) and isinstance(node.this, exp.Distinct):
                for ref in context.statement.refs(node):
                    if any(k.table in tables and ref.column.name in k.columns for k in ref.table.foreign_keys) or (
                        ref.table.name in tables and ref.column.primary_key
                    ):
                        return True
    # A column that is a key may be grouped by through the name of what it points at.
    return any(
        key.table == ref.table.name and _names(context, ref) and (table.name, c) in columns & context.statement.read
        for level in context.statement.levels for node in _told_apart(level)
        for ref, _ in context.statement.deep_refs(node, level)
        for table in context.catalog.tables for key in table.foreign_keys for c in key.columns
    )  # fmt: skip


def _over_rows_of(context: ReviewContext, level: Level, tables: set[str]) -> bool:
    """Whether an average is taken over the rows of a table themselves: the average quantity per withdrawal."""
    taken = [n for n in level.aggregates if isinstance(n, exp.Avg | exp.Sum)]
    by_rows = any(isinstance(n, exp.Avg) for n in taken) or any(
        isinstance(n, exp.Count) and isinstance(n.this, exp.Star) for n in level.aggregates
    )
    return by_rows and any(r.table.name in tables for n in taken for r in context.statement.refs(n))


def _names(context: ReviewContext, ref: Ref) -> bool:
    """Whether a column tells the rows of its table apart."""
    table, column = ref.table, ref.column
    if column.primary_key or column.unique:
        return True
    if context.notes.of(table.name).label == column.name:
        return table.sampled or not table.shared_by_many(column)
    if (column.name,) in table.unique or column.distinct is None or not table.row_count:
        return True
    return column.distinct >= table.row_count


def _told_apart(level: Level) -> list[exp.Expr]:
    """What the rows of a query differ by: what it groups by, or, where it does not, what it lists."""
    if level.groups:
        return level.groups
    if level.aggregates or level.role in ("exists", "in"):
        return []
    return [p.unalias() for p in level.select.expressions]


def _unit(context: ReviewContext, node: exp.Expr) -> str:
    unit = calendar_unit(node, context.statement)
    if unit or not isinstance(node, exp.Column):
        return unit
    for level in context.statement.levels:
        if any(node is g for g in _told_apart(level)):
            source, _ = context.statement.origin(node, level)
            return calendar_unit(source, context.statement) if source is not node else ""
    return ""


def _divided(context: ReviewContext) -> bool:
    return any(
        isinstance(n, exp.Div) for lv in context.statement.levels for p in lv.select.expressions for n in p.walk()
    )
