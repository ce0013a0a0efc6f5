"""Equal amounts are different amounts: DISTINCT inside a sum or an average drops them.

Bad:  SELECT SUM(DISTINCT amount_eur) FROM payment
Good: SELECT SUM(amount_eur) FROM payment
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule

CODE = "distinct-drops"


@rule(CODE)
def distinct(context: ReviewContext) -> list[Finding]:
    """Findings on DISTINCT where it drops what counts."""
    found = []
    for level in context.statement.levels:
        for node in level.aggregates:
            inner = getattr(node, "this", None)
            if not isinstance(inner, exp.Distinct):
                continue
            refs = context.statement.refs(node)
            if isinstance(node, exp.Sum | exp.Avg):
                message = said_as("caveat-distinct-drops", figure=node.key.upper())
                found.append(context.finding(CODE, "error", message, "Leave DISTINCT out.", node))
            elif len(refs) == 1 and refs[0].column.kind == "number" and not _names_things(refs[0]):
                message = said_as("caveat-distinct-values", column=str(refs[0]))
                found.append(context.finding(CODE, "error", message, "Count rows, or a key.", node))
    return found


def _names_things(ref: object) -> bool:
    column, table = ref.column, ref.table  # type: ignore[attr-defined]
    return column.primary_key or column.unique or any(column.name in k.columns for k in table.foreign_keys)
