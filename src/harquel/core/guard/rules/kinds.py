"""Only known parts of SQL: what is not on the list for the engine is refused, not passed through.

Bad:  SELECT * FROM pragma_table_info('customer')
Good: SELECT name FROM harbour
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.guard.allowed import KINDS, MODIFIERS, WRITES
from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.rules.rule import rule
from harquel.core.sql.tree import place

CODE = "unknown-construct"
_PLAIN = "Use plain SELECT with joins, conditions, grouping and ordering."
_WHY: dict[type[exp.Expr], tuple[str, str]] = {
    exp.Fetch: (
        "FETCH … WITH TIES is not allowed: how many rows it gives stands in the data and not in the statement.",
        "Write LIMIT, or a condition on RANK() where ties are to come along.",
    ),
}
"""Kinds that people write for a reason, and what to write instead."""


@rule(CODE)
def kinds(context: GuardContext) -> list[Objection]:
    """One objection for each kind of node that is not allowed; functions have a rule of their own."""
    allowed, objections, told = KINDS[context.engine], [], set()
    if not isinstance(context.tree, exp.Query):
        objections.append(_refuse(context.tree, "Only a query (SELECT, WITH or VALUES) may run."))
    for select in context.tree.find_all(exp.Select):
        for word in select.args.get("operation_modifiers") or ():
            if str(word).upper() not in MODIFIERS:
                objections.append(_refuse(select, f"{str(word).upper()} after SELECT is not allowed here."))
    for node in context.tree.walk():
        kind = type(node)
        if kind in allowed or kind in told or isinstance(node, (exp.Anonymous, *WRITES)):
            continue
        if isinstance(node, exp.Func) or (isinstance(node, exp.Dot) and isinstance(node.expression, exp.Anonymous)):
            continue
        told.add(kind)
        if kind is exp.LimitOptions and exp.Fetch in told:
            continue  # said along with it
        why, instead = _WHY.get(kind, (f"The statement uses {node.key.upper()}, which is not allowed here.", _PLAIN))
        objections.append(_refuse(node, why, instead))
    return objections


def _refuse(node: exp.Expr, message: str, hint: str = _PLAIN) -> Objection:
    return object_to(CODE, message, hint, "statement.kinds", place(node))
