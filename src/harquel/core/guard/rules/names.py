"""Only tables and columns that exist for the asker, resolved through aliases, CTEs and subqueries.

A table that is not exposed gets the same words as one that is not there; of a table that the asker knows, a withheld
column is said to be withheld (docs/decisions/0020).

Bad:  SELECT vessel_name FROM vessel
Good: SELECT name FROM vessel
"""

from __future__ import annotations

from typing import get_args

from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.rules.rule import rule
from harquel.core.sql.names import FaultKind, NameFault
from harquel.core.sql.tree import place


@rule(*get_args(FaultKind))
def names(context: GuardContext) -> list[Objection]:
    """One objection for each name that does not resolve."""
    return [_objection(fault) for fault in context.names.faults]


def _objection(fault: NameFault) -> Objection:
    if fault.kind == "unknown-table":
        message = f'There is no table or alias "{fault.name}".'
        hint = _nearest(fault) or "Use only the tables listed in the schema."
    elif fault.kind == "unknown-column":
        message = f'There is no column "{fault.name}" in the tables that this part of the query reads.'
        where = f"{fault.name.split('.')[-1]} exists in {', '.join(fault.elsewhere[:4])}." if fault.elsewhere else ""
        hint = " ".join(filter(None, (_nearest(fault), where))) or "Use only the columns listed in the schema."
    elif fault.kind == "withheld-column":
        message, hint = f"{fault.name} is withheld by the policy.", "Do without it."
    elif fault.kind == "ambiguous-column":
        message = f'The name "{fault.name}" could mean more than one thing.'
        hint = f"Write {' or '.join(fault.nearest)}." if fault.nearest else "Give each table its own alias."
    else:
        message = f"It cannot be made out what {fault.name} refers to."
        hint = "Name tables and columns plainly; join with ON."
    return object_to(fault.kind, message, hint, "expose", place(fault.node))


def _nearest(fault: NameFault) -> str:
    return f"Nearest: {', '.join(fault.nearest)}." if fault.nearest else ""
