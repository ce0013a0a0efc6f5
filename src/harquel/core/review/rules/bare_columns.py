"""Beside aggregates stand only columns that are grouped by; any other has a value of an arbitrary row.

Bad:  SELECT category, COUNT(*), severity FROM incident GROUP BY category
Good: SELECT category, COUNT(*), AVG(severity) FROM incident GROUP BY category
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Level, Ref, is_aggregate

CODE = "bare-column"


@rule(CODE)
def bare_columns(context: ReviewContext) -> list[Finding]:
    """One finding for each projection that is neither grouped by nor aggregated."""
    found = []
    for level in context.statement.levels:
        if not level.groups and not level.aggregates:
            continue
        for projection in level.select.expressions:
            node = projection.unalias()
            bare = _bare(context, node, level)
            if bare is not None:
                message = said_as("caveat-bare-column", column=bare.sql())
                hint = "Aggregate it, or group by it."
                found.append(context.finding(CODE, "error", message, hint, bare))
    return found


def _bare(context: ReviewContext, node: exp.Expr, level: Level) -> exp.Expr | None:
    if any(node is g or node == g for g in level.groups) or is_aggregate(node) or isinstance(node, exp.Window):
        return None
    if isinstance(node, exp.Column):
        ref = context.statement.ref(node)
        for group in level.groups:
            known = context.statement.ref(group)
            if known is None:
                continue
            if ref is not None and known.key == ref.key:
                return None
            if ref is not None and ref.table.name in _settled(context, known, level):
                return None
        return None if ref is None and not _inside_group(context, node, level) else node
    if isinstance(node, exp.Subquery | exp.Query | exp.Star):
        return None
    for child in node.iter_expressions():
        found = _bare(context, child, level)
        if found is not None:
            return found
    return None


def _settled(context: ReviewContext, known: Ref, level: Level) -> set[str]:
    """The tables of which a group has a single row: a key settles its table, and what that is tied to by a key."""
    if not (known.column.primary_key or known.column.unique):
        return set()
    grain = context.grain(level)
    starts = [alias for alias, part in grain.parts.items() if part.table is known.table]
    single = {known.table.name}
    for start in starts:
        many = grain.multipliers(start)
        for alias, part in grain.parts.items():
            way = grain.way(start, alias)
            if part.table is not None and way is not None and not way & many:
                single.add(part.table.name)
    return single


def _inside_group(context: ReviewContext, node: exp.Column, level: Level) -> bool:
    """Whether a column of a subquery is free to vary within a group."""
    if any(g.name.casefold() == node.name.casefold() for g in level.groups if isinstance(g, exp.Column)):
        return False
    found = context.statement.part(node, level)
    return found is not None and found[1] is level and found[0].derived is not None and not found[0].one_row
