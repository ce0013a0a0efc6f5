"""Nothing may write: no change of data, structure, settings or locks, anywhere in the tree.

Bad:  WITH gone AS (DELETE FROM booking RETURNING id) SELECT COUNT(*) FROM gone
Good: SELECT COUNT(*) FROM booking
"""

from __future__ import annotations

from harquel.core.guard.allowed import WRITES
from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.rules.rule import rule
from harquel.core.language.say import said_as
from harquel.core.sql.tree import place

CODE = "reads-only"


@rule(CODE)
def reads_only(context: GuardContext) -> list[Objection]:
    """One objection for the first part that would write."""
    for node in context.tree.walk():
        if isinstance(node, WRITES):
            return [
                object_to(
                    CODE,
                    said_as("guard-reads-only", what=node.key.upper()),
                    "Only reading is allowed: write one SELECT, or say that the question asks for a change.",
                    "statement.reads-only",
                    place(node),
                )
            ]
    return []
