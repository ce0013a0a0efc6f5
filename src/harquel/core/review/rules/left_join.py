"""A LEFT JOIN keeps rows without a partner; a condition on the partner in WHERE, or COUNT(*), takes that back.

Bad:  SELECT v.name FROM vessel v LEFT JOIN sailing s ON s.vessel_id = v.id WHERE s.status = 'X'
Good: SELECT v.name FROM vessel v LEFT JOIN sailing s ON s.vessel_id = v.id AND s.status = 'X'
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition, Level, Part, within

CODE = "left-join-undone"


@rule(CODE, "counts-empty")
def left_join(context: ReviewContext) -> list[Finding]:
    """Findings on rows without a partner that are lost again, or counted as one."""
    found = []
    for level in context.statement.levels:
        for part in level.parts.values():
            if part.side != "left":
                continue
            undone = next(
                (c for c in level.conditions if c.place == "where" and _rejects(context, c, level, part)), None
            )
            name = part.node.alias_or_name
            if undone is not None:
                message = said_as("caveat-left-join-undone", table=name)
                hint = "Move the condition into ON, or write JOIN."
                found.append(context.finding(CODE, "error", message, hint, undone.node))
            elif level.groups and not _anti(context, level, part):
                stars = [n for p in level.select.expressions for n in within(p)
                         if isinstance(n, exp.Count) and isinstance(n.this, exp.Star)]  # fmt: skip
                if stars:
                    message = said_as("caveat-counts-empty", table=name)
                    found.append(
                        context.finding("counts-empty", "error", message, f"Count a column of {name}.", stars[0])
                    )
    return found


def _rejects(context: ReviewContext, condition: Condition, level: Level, part: Part) -> bool:
    if condition.either or condition.op == "is null" or condition.op == "other":
        return False
    if any(isinstance(n, exp.Coalesce) for n in within(condition.subject)):
        return False
    return any(
        isinstance(n, exp.Column) and (found := context.statement.part(n, level)) is not None and found[0] is part
        for n in within(condition.subject)
    )


def _anti(context: ReviewContext, level: Level, part: Part) -> bool:
    return any(
        c.op == "is null" and isinstance(c.subject, exp.Column)
        and (found := context.statement.part(c.subject, level)) is not None and found[0] is part
        for c in level.conditions if c.place == "where"
    )  # fmt: skip
