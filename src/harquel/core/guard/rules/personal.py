"""Personal columns are refused or only counted, as the policy says. Masks are written in later.

Bad:  SELECT email FROM customer              -- where the policy says count
Good: SELECT COUNT(DISTINCT email) FROM customer
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.rules.rule import rule
from harquel.core.language.say import said_as
from harquel.core.sql.tree import place

CODE = "personal-column"


@rule(CODE)
def personal(context: GuardContext) -> list[Objection]:
    """One objection for each place where a personal column stands and may not."""
    found = []
    for node, column, table in context.names.columns:
        treatment, line = context.terms.treatment(table.name, column)
        if treatment == "refuse" or (treatment == "count" and not _is_counted(node)):
            found.append(_refuse(f"{table.name}.{column.name}", treatment, line, node))
    for table_name, column_name in sorted(context.names.loose):
        owner = context.catalog.table(table_name)
        loose = owner.column(column_name) if owner is not None else None
        if loose is not None:
            treatment, line = context.terms.treatment(table_name, loose)
            if treatment in ("refuse", "count"):
                found.append(_refuse(f"{table_name}.{column_name}", treatment, line, context.tree))
    return found


def _is_counted(node: exp.Expr) -> bool:
    """Whether it stands alone inside COUNT(…) or COUNT(DISTINCT …): no shape of a query tells more than a number."""
    parent = node.parent
    if isinstance(parent, exp.Distinct) and len(parent.expressions) == 1 and parent.args.get("on") is None:
        parent = parent.parent
    return isinstance(parent, exp.Count) and not isinstance(parent.parent, exp.Window)


def _refuse(name: str, treatment: str, line: str, node: exp.Expr) -> Objection:
    if treatment == "count":
        message = said_as("guard-personal-count", column=name)
        hint = said_as("guard-personal-count-hint", column=name.rpartition(".")[2])
    else:
        message = said_as("guard-personal", column=name)
        hint = said_as("guard-personal-hint")
    return object_to(CODE, message, hint, line, place(node))
