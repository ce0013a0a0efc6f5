"""Rows of a loose join that are counted more than once.

Keys that a database only declares, or that people declared, may not hold; comparisons of times tie rows to more than
one. Whether that happened is seen in the data, by one small query.
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import ReviewContext
from harquel.core.review.probes import Look
from harquel.core.review.statement import Level, Part, within
from harquel.core.sql.tree import identifier, render

CODE = "total-differs"
_ADDS = (exp.Sum, exp.Avg, exp.Count)


def total_differs(context: ReviewContext, look: Look) -> Finding | None:
    """One finding for the first aggregate of the outer query whose rows a loose join repeats."""
    level = context.statement.outer
    if not isinstance(context.statement.tree, exp.Select) or len(level.parts) < 2 or level.limit is not None:
        return None
    if level.select.args.get("distinct") or level.select.args.get("having") or level.ctes:
        return None
    for node in level.aggregates:
        if not isinstance(node, _ADDS) or isinstance(node.this, exp.Distinct):
            continue
        alias = _subject(context, node, level)
        if alias is None or context.grain(level).multipliers(alias):
            continue  # what keys say is said without a look
        found = _repeated(context, level, alias, look)
        if found is not None:
            return found
    return None


def _subject(context: ReviewContext, node: exp.Expr, level: Level) -> str | None:
    """The one part whose columns an aggregate takes."""
    aliases = set()
    for column in (n for n in within(node) if isinstance(n, exp.Column)):
        found = context.statement.part(column, level)
        if found is None or found[1] is not level:
            return None
        aliases.add(next(a for a, p in level.parts.items() if p is found[0]))
    (only,) = aliases if len(aliases) == 1 else (None,)
    return only if only is not None and level.parts[only].table is not None else None


def _repeated(context: ReviewContext, level: Level, alias: str, look: Look) -> Finding | None:
    """Whether some row stands there several times in one group, where a loose condition ties the tables."""
    grain, part = context.grain(level), level.parts[alias]
    if not any(alias in pair for pair in grain.loose) or part.table is None:
        return None
    key = [exp.Column(this=identifier(c.name), table=_name(part)) for c in part.table.columns if c.primary_key]
    if not key:
        return None
    inner = exp.Select(expressions=[exp.alias_(exp.Literal.number(1), "one")])
    for place in ("from_", "joins", "where"):
        value = level.select.args.get(place)
        if value:
            inner.set(place, [v.copy() for v in value] if isinstance(value, list) else value.copy())
    inner.set("group", exp.Group(expressions=[*key, *(g.copy() for g in level.groups)]))
    inner.set("having", exp.Having(this=exp.GT(this=exp.Count(this=exp.Star()), expression=exp.Literal.number(1))))
    outer = exp.Select(expressions=[exp.Count(this=exp.Star())])
    outer.set("from_", exp.From(this=inner.subquery("repeated")))
    found = look(render(outer, context.engine))
    if not found or not found[0][0]:
        return None
    message = said_as("caveat-total-differs", rows=f"{int(found[0][0]):,}", table=part.table.name)
    return context.finding(CODE, "warning", message, "Tie each to one row, or aggregate before joining.")


def _name(part: Part) -> exp.Identifier:
    return identifier(part.node.alias_or_name)
