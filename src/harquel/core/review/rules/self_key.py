"""A key that points into its own table has two directions; the query follows the one that is meant.

Bad:  "who leads nobody": SELECT COUNT(*) FROM crew_member WHERE manager_id IS NULL
Good: SELECT COUNT(*) FROM crew_member m WHERE NOT EXISTS (SELECT 1 FROM crew_member o WHERE o.manager_id = m.id)
"""

from __future__ import annotations

from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule

CODE = "direction"


@rule(CODE)
def self_key(context: ReviewContext) -> list[Finding]:
    """One finding where only one end of such a key is looked at and the question does not name that end."""
    found = []
    for condition in context.statement.conditions:
        ref = condition.ref
        if ref is None or condition.op not in ("is null", "is not null"):
            continue
        key = next(
            (k for k in ref.table.foreign_keys if k.table == ref.table.name and ref.column.name in k.columns), None
        )
        if condition.op == "is not null" and any(context.statement.ref(g) == ref for g in condition.level.groups):
            continue  # those below are counted by whom they point at
        if key is None or sum(t is ref.table for _, t in context.statement.names.tables) > 1:
            continue
        if any(
            m.kind == "column" and (m.table, m.column) == ref.key for x in context.question.mentions for m in x.meanings
        ):
            continue
        message = f"{ref} leads from a row to the one above it; that it is empty says nothing about those below."
        hint = f"If those below are meant, look for rows whose {ref.column.name} is this row's key."
        found.append(context.finding(CODE, "warning", message, hint, condition.node))
    return found
