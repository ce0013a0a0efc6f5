"""Whatever stands in FROM is tied to the rest; otherwise each row meets every row.

Bad:  SELECT r.code, COUNT(*) FROM sailing s, route r GROUP BY r.code
Good: SELECT r.code, COUNT(*) FROM sailing s JOIN route r ON r.id = s.route_id GROUP BY r.code
"""

from __future__ import annotations

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule

CODE = "unjoined"


@rule(CODE)
def unjoined(context: ReviewContext) -> list[Finding]:
    """One finding for each query in which tables stand side by side."""
    found = []
    for level in context.statement.levels:
        grain = context.grain(level)
        many = [c for c in grain.components if not all(level.parts[a].one_row for a in c)]
        # Single rows side by side are figures beside each other; one beside many is a condition that ties nothing.
        if len(many) < 2 or all(grain.one_row(a) for c in many for a in c):
            continue
        left, right = (sorted(level.parts[a].node.alias_or_name for a in c) for c in many[:2])
        message = said_as("caveat-unjoined", right=", ".join(right), left=", ".join(left))
        tables = [p.table for c in many for a in c if (p := level.parts[a]).table is not None]
        keys = [
            f"{a.name}.{', '.join(k.columns)} = {k.table}.{', '.join(k.references)}"
            for a in tables for b in tables if a is not b for k in a.foreign_keys if k.table == b.name
        ]  # fmt: skip
        hint = f"Join them: {'; '.join(keys[:3])}." if keys else "Join them by a key, through other tables if need be."
        found.append(context.finding(CODE, "error", message, hint, level.parts[sorted(many[1])[0]].node))
    return found
