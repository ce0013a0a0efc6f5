"""Casts only to plain types: others look into the system's tables or run functions of somebody's own.

Bad:  SELECT 'pg_authid'::regclass
Good: SELECT CAST(total_cents AS DECIMAL(12, 2)) / 100 FROM booking
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.guard.allowed import TYPES
from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.rules.rule import rule
from harquel.core.sql.dialects import DIALECTS
from harquel.core.sql.tree import place

CODE = "type-not-allowed"


@rule(CODE)
def types(context: GuardContext) -> list[Objection]:
    """One objection for each type that is not on the engine's list."""
    objections = []
    for node in context.tree.find_all(exp.DataType):
        # A type that the library keeps as text, as an interval with its unit, is a tree of its own.
        kind = exp.DataType.Type.INTERVAL if isinstance(node.this, exp.Interval) else node.this
        if kind == exp.DataType.Type.USERDEFINED:
            kind = node.args.get("kind")
        if kind == exp.DataType.Type.ARRAY and DIALECTS[context.engine].lists and len(node.expressions) == 1:
            # A list of plain values; what it is a list of is looked at by itself, and is no list again.
            inner = node.expressions[0]
            if isinstance(inner, exp.DataType) and not inner.args.get("nested"):
                continue
        if kind not in TYPES[context.engine] or node.args.get("nested"):
            hint = "Cast to a plain number, text, date or time type only."
            message = f"The type {node.sql()} is not allowed here."
            objections.append(object_to(CODE, message, hint, "statement.types", place(node)))
    return objections
