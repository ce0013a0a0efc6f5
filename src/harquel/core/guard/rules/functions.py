"""Only functions that compute: none that reads files, sleeps, loads code or makes a small input huge.

Bad:  SELECT load_extension('spare.so')
Good: SELECT ROUND(AVG(wind_kn), 1) FROM weather_reading
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.guard.allowed import KINDS, NAMES, TABLE_FUNCTIONS, WHY_NOT
from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.rules.rule import rule
from harquel.core.language.say import said_as
from harquel.core.sql.tree import place

CODE = "function-not-allowed"


@rule(CODE)
def functions(context: GuardContext) -> list[Objection]:
    """One objection for each function that is not on the engine's list."""
    objections = []
    said = context.policy.functions
    named, refused = ({n.upper() for n in names} for names in (said.allow, said.refuse))
    for node in context.tree.find_all(exp.Func):
        if isinstance(node, exp.Anonymous):
            name = str(node.this).upper()
            makes_rows = isinstance(node.parent, exp.Table)
            allowed = name in (TABLE_FUNCTIONS if makes_rows else NAMES)[context.engine]
            if not makes_rows and not isinstance(node.parent, exp.Dot):
                allowed = allowed or name in named
        else:
            name, allowed = node.sql_name(), type(node) in KINDS[context.engine]
        line = "statement.functions"
        if name in refused:
            allowed, line = False, "functions.refuse"
        if isinstance(node.parent, exp.Dot):
            # A function of somebody's own: only the policy lets it run.
            name = node.parent.sql().partition("(")[0].upper()
            allowed, line = name in named, "functions.allow"
        if not allowed:
            hint = "Compute it with ordinary aggregates, arithmetic, and text or date functions."
            message: str = said_as("guard-function", name=name)
            if name in WHY_NOT and line == "statement.functions":
                why, hint = WHY_NOT[name]
                message = f"The function {name} is not allowed: {why}."
            objections.append(object_to(CODE, message, hint, line, place(node)))
    return objections
