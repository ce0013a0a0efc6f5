"""Superlatives that say by themselves which column ranks the rows of a table: the oldest, the longest."""

from __future__ import annotations

from .prompt import Column, Table
from .words import stems

_LENGTH = ("length", "distance", "duration")
_BEGUN = ("built", "born", "birth", "hired", "joined", "opened", "founded")
_PRICE = ("price", "cost", "fee", "amount")
_SIZE = ("capacity", "size", "area", "tonnage")

RANKS: dict[str, tuple[tuple[str, ...], bool]] = {
    "longest": (_LENGTH, False), "shortest": (_LENGTH, True), "oldest": (_BEGUN, True), "newest": (_BEGUN, False),
    "youngest": (_BEGUN, False), "dearest": (_PRICE, False), "priciest": (_PRICE, False), "cheapest": (_PRICE, True),
    "largest": (_SIZE, False), "biggest": (_SIZE, False), "smallest": (_SIZE, True), "heaviest": (("weight",), False),
    "lightest": (("weight",), True), "fastest": (("speed",), False), "slowest": (("speed",), True),
}  # fmt: skip
"""Adjective to the words in the name of such a column, and whether the lowest comes first."""


def ranking_column(adjective: str, table: Table) -> Column | None:
    """The column of a table that an adjective is about, if it has one."""
    known = [c for c in table.columns.values() if (c.numeric or c.temporal) and c.name not in table.links]
    return next((c for word in RANKS[adjective][0] for c in known if word in stems(c.name)), None)
