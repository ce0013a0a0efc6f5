"""Only functions that compute: none that reads files, sleeps, loads code or makes a small input huge.

Bad:  SELECT load_extension('spare.so')
Good: SELECT ROUND(AVG(wind_kn), 1) FROM weather_reading
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.guard.allowed import KINDS, NAMES
from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.sql.tree import place

CODE = "function-not-allowed"


def functions(context: GuardContext) -> list[Objection]:
    """One objection for each function that is not on the engine's list."""
    objections = []
    for node in context.tree.find_all(exp.Func):
        if isinstance(node, exp.Anonymous):
            name = str(node.this).upper()
            allowed = name in NAMES[context.engine] and not isinstance(node.parent, exp.Table)
        else:
            name, allowed = node.sql_name(), type(node) in KINDS[context.engine]
        if not allowed:
            hint = "Compute it with ordinary aggregates, arithmetic, and text or date functions."
            message = f"The function {name} is not allowed."
            objections.append(object_to(CODE, message, hint, "statement.functions", place(node)))
    return objections
