"""Figures are converted by the right factor, are what their column is called, and are such as can be added up.

Bad:  SELECT SUM(total_cents) / 10 AS revenue_eur FROM booking
Good: SELECT SUM(total_cents) / 100.0 AS revenue_eur FROM booking
"""

from __future__ import annotations

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import ReviewContext
from harquel.core.review.dimensions import ADDED_UP, UNIT, quantity_of
from harquel.core.review.rules.rule import rule

_MOST = 2


@rule(UNIT, ADDED_UP)
def units(context: ReviewContext) -> list[Finding]:
    """One finding for each figure that is wrongly converted or wrongly named, or a rate that was added up."""
    found: list[Finding] = []
    outer, known = context.statement.outer, context.notes.known_units
    for projection in outer.select.expressions:
        node = projection.unalias()
        made = quantity_of(node, outer, context)
        found += [context.finding(code, "error", fault, made.hint, node) for code, fault in made.faults]
        named, unit = known.of_name(projection.alias_or_name), known.known(made.unit)
        if not made.faults and named is not None and unit is not None and named != unit.name:
            message = said_as("caveat-unit-called", unit=str(made.unit), name=projection.alias_or_name)
            found.append(context.finding(UNIT, "error", message, known.way(made.unit, named), node))
    return found[:_MOST]
