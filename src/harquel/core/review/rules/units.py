"""Figures are converted by the right factor, are what their column is called, and are such as can be added up.

Bad:  SELECT SUM(total_cents) / 10 AS revenue_eur FROM booking
Good: SELECT SUM(total_cents) / 100.0 AS revenue_eur FROM booking
"""

from __future__ import annotations

import re

from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.dimensions import quantity_of
from harquel.core.review.rules.rule import rule

CODE = "unit"
_BY_NAME = (
    ("EUR", re.compile(r"(?:^|_)(?:eur|euro|euros)(?:_|$)")), ("euro cents", re.compile(r"(?:^|_)cents?$")),
    ("litres", re.compile(r"^(?:total_)?(?:litres|liters)$")), ("minutes", re.compile(r"(?:^|_)(?:min|minutes)$")),
    ("nautical miles", re.compile(r"(?:^|_)nm$")), ("knots", re.compile(r"(?:^|_)kn(?:ots)?$")),
    ("km", re.compile(r"(?:^|_)km$")), ("days", re.compile(r"^(?:average_|avg_|mean_)?days(?:_open)?$")),
    ("hours", re.compile(r"(?:^|_)hours$")), ("m", re.compile(r"_m$")),
)  # fmt: skip
_MOST = 2


@rule(CODE, "rate-added-up")
def units(context: ReviewContext) -> list[Finding]:
    """One finding for each figure that is wrongly converted or wrongly named, or a rate that was added up."""
    found: list[Finding] = []
    outer = context.statement.outer
    for projection in outer.select.expressions:
        node = projection.unalias()
        made = quantity_of(node, outer, context)
        for fault in made.faults:
            found.append(context.finding("rate-added-up" if "add" in fault else CODE, "error", fault, made.hint, node))
        named = _by_name(projection.alias_or_name)
        if not made.faults and made.unit and named and named != made.unit:
            message = f"The figure is in {made.unit}; it is called {projection.alias_or_name}."
            found.append(context.finding(CODE, "error", message, _hint(made.unit, named), node))
    return found[:_MOST]


def _by_name(name: str) -> str | None:
    return next((unit for unit, pattern in _BY_NAME if pattern.search(name.casefold())), None)


def _hint(have: str, want: str) -> str:
    if (have, want) == ("euro cents", "EUR"):
        return "Divide by 100.0."
    return f"Give it in {want}."
