"""Figures are converted by the right factor, are what their column is called, and are such as can be added up.

Bad:  SELECT SUM(total_cents) / 10 AS revenue_eur FROM booking
Good: SELECT SUM(total_cents) / 100.0 AS revenue_eur FROM booking
"""

from __future__ import annotations

from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.dimensions import quantity_of
from harquel.core.review.rules.rule import rule

CODE = "unit"
_MOST = 2


@rule(CODE, "rate-added-up")
def units(context: ReviewContext) -> list[Finding]:
    """One finding for each figure that is wrongly converted or wrongly named, or a rate that was added up."""
    found: list[Finding] = []
    outer, known = context.statement.outer, context.notes.known_units
    for projection in outer.select.expressions:
        node = projection.unalias()
        made = quantity_of(node, outer, context)
        for fault in made.faults:
            found.append(context.finding("rate-added-up" if "add" in fault else CODE, "error", fault, made.hint, node))
        named, unit = known.of_name(projection.alias_or_name), known.known(made.unit)
        if not made.faults and named is not None and unit is not None and named != unit.name:
            message = f"The figure is in {made.unit}; it is called {projection.alias_or_name}."
            found.append(context.finding(CODE, "error", message, known.way(made.unit, named), node))
    return found[:_MOST]
