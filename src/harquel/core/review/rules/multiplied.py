"""What is summed, averaged or counted stands once in each row, not as often as a joined table repeats it.

Bad:  SELECT SUM(b.total_cents) FROM booking b JOIN payment p ON p.booking_id = b.id
Good: SELECT SUM(b.total_cents) FROM booking b
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Level, Part, called, within

CODE = "multiplied"
_ADDS = (exp.Sum, exp.Avg, exp.Count)


@rule(CODE)
def multiplied(context: ReviewContext) -> list[Finding]:
    """One finding for each aggregate over rows that a join repeats."""
    found = []
    for level in context.statement.levels:
        grain = context.grain(level)
        for node in level.aggregates:
            if not isinstance(node, _ADDS) or isinstance(node.this, exp.Distinct):
                continue
            alias = _subject(context, node, level)
            if alias is None:
                continue
            many = grain.within_groups(alias)
            if not many or _meant(context, level, alias, many, node):
                continue
            part, by = level.parts[alias], ", ".join(sorted(level.parts[m].node.alias_or_name for m in many))
            name = part.table.name if part.table is not None else alias
            message = said_as("caveat-multiplied", table=name, by=by, figure=node.key)
            hint = f"Take {by} out, or aggregate {name} in a subquery before joining."
            if isinstance(node, exp.Count):
                hint = (
                    f"Count each {name} once: COUNT(DISTINCT {part.node.alias_or_name}.{_key(part)}), or take {by} out."
                )
            found.append(context.finding(CODE, "error", message, hint, node))
    return found


def _key(part: Part) -> str:
    return next((c.name for c in part.table.columns if c.primary_key), "id") if part.table is not None else "id"


def _subject(context: ReviewContext, node: exp.Expr, level: Level) -> str | None:
    """The part whose rows an aggregate is about: of its columns, by what keys say."""
    columns = [n for n in within(node) if isinstance(n, exp.Column)]
    aliases = set()
    for column in columns:
        found = context.statement.part(column, level)
        if found is not None and found[1] is level:
            aliases.add(next(a for a, p in level.parts.items() if p is found[0]))
    if isinstance(node, exp.Count):
        # What COUNT(*) is to count is said by the question alone.
        ref = context.statement.ref(node.this) if isinstance(node.this, exp.Column) else None
        return next(iter(aliases)) if len(aliases) == 1 and ref is not None and ref.column.primary_key else None
    if not aliases or (any(isinstance(n, exp.Case) for n in within(node)) and len(aliases) > 1):
        return None
    # Of several tables in one product the finest is summed over.
    grain = context.grain(level)
    return min(sorted(aliases), key=lambda a: len(grain.multipliers(a)))


def _meant(context: ReviewContext, level: Level, alias: str, many: frozenset[str], node: exp.Expr) -> bool:
    """Whether a lasting property is added up over what happened, once each, on purpose: miles sailed, seats offered."""
    table = level.parts[alias].table
    if table is None or isinstance(node, exp.Count) or any(is_temporal(c) for c in table.columns):
        return False
    if len(many) != 1:
        return False
    (only,) = many
    other = level.parts[only].table
    grain = context.grain(level)
    if other is None or not grain.links.get((alias, only)) or grain.multipliers(only):
        return False
    return isinstance(_outside(node), exp.Div) or _only_way(context, level, alias, only)


def _only_way(context: ReviewContext, level: Level, alias: str, only: str) -> bool:
    """Whether it is added up for things that it has to do with through those rows alone: credits by person."""
    grain = context.grain(level)
    grouped = {
        a for g in level.groups if isinstance(g, exp.Column) and (found := context.statement.part(g, level)) is not None
        for a, p in level.parts.items() if p is found[0]
    }  # fmt: skip
    if not grouped - {alias, only} or grouped & {alias, only}:
        return False
    return all(only in (grain.way(alias, a) or ()) and only in grain.multipliers(a) for a in grouped)


def _outside(node: exp.Expr) -> exp.Expr | None:
    parent = node.parent
    while isinstance(parent, exp.Paren | exp.Coalesce | exp.Cast | exp.Mul | exp.Nullif) or (
        parent is not None and called(parent) == "NULLIF"
    ):
        parent = parent.parent
    return parent
