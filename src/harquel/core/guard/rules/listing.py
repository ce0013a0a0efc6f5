"""What may be listed in part only is not put together into one value either.

Bad:  SELECT GROUP_CONCAT(home_harbour) FROM customer              -- where the policy says listing.share
Good: SELECT home_harbour, COUNT(*) FROM customer GROUP BY home_harbour
"""

from __future__ import annotations

from fnmatch import fnmatchcase

from sqlglot import exp

from harquel.core.guard.allowed import GATHERING
from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.rules.rule import rule
from harquel.core.language.say import said_as
from harquel.core.sql.tree import place

CODE = "listing-share"


@rule(CODE)
def listing(context: GuardContext) -> list[Objection]:
    """One objection for each aggregate that would hold the values of many rows of such a table."""
    said = context.policy.listing
    if said.share is None:
        return []
    read = {table.name for _, table in context.names.tables}
    concerned = {n for n in read if any(fnmatchcase(n.lower(), p.lower()) for p in said.tables)}
    if not concerned:
        return []
    owners = {id(node): table.name for node, _, table in context.names.columns}
    found = []
    for node in context.tree.find_all(exp.GroupConcat, exp.Anonymous):
        if isinstance(node, exp.Anonymous) and str(node.this).upper() not in GATHERING:
            continue
        # What it holds may come from such a table by way of a CTE or a subquery, unless it plainly comes from another.
        columns = list(node.find_all(exp.Column))
        if columns and all(owners.get(id(c), "") in read - concerned for c in columns):
            continue
        message = said_as("guard-listing", tables=", ".join(sorted(concerned)))
        hint = said_as("guard-listing-hint")
        found.append(object_to(CODE, message, hint, "listing.share", place(node)))
    return found
