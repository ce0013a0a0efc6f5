"""Adjectives that say by themselves which column ranks the rows of a table, or is compared: the oldest, longer than."""

from __future__ import annotations

from .prompt import Column, Table
from .words import stems

_LENGTH = ("length", "distance", "duration")
_BEGUN = ("built", "born", "birth", "hired", "joined", "opened", "founded")
_PRICE = ("price", "cost", "fee", "amount")
_SIZE = ("capacity", "size", "area", "tonnage")
_DATED = ("",)
"""What dates a row, whatever it is called."""

RANKS: dict[str, tuple[tuple[str, ...], bool]] = {
    "longest": (_LENGTH, False), "shortest": (_LENGTH, True), "oldest": (_BEGUN, True), "youngest": (_BEGUN, False),
    "newest": (_BEGUN + _DATED, False), "latest": (_DATED, False), "earliest": (_DATED, True),
    "recent": (_DATED, False),
    "dearest": (_PRICE, False), "priciest": (_PRICE, False), "expensive": (_PRICE, False), "cheapest": (_PRICE, True),
    "largest": (_SIZE, False), "biggest": (_SIZE, False), "smallest": (_SIZE, True), "heaviest": (("weight",), False),
    "lightest": (("weight",), True), "fastest": (("speed",), False), "slowest": (("speed",), True),
}  # fmt: skip
"""Adjective to the words in the name of such a column, and whether the lowest comes first."""
COMPARED = {
    "longer": (_LENGTH, ">"), "shorter": (_LENGTH, "<"), "dearer": (_PRICE, ">"), "cheaper": (_PRICE, "<"),
    "larger": (_SIZE, ">"), "bigger": (_SIZE, ">"), "smaller": (_SIZE, "<"), "heavier": (("weight",), ">"),
    "faster": (("speed",), ">"), "slower": (("speed",), "<"),
}  # fmt: skip


def ranking_column(adjective: str, table: Table) -> Column | None:
    """The column of a table that an adjective is about, if it has one."""
    words = RANKS[adjective][0]
    found = _named(words, table)
    return found or (table.date_column() if words[-1:] == _DATED else None)


def compared_column(adjective: str, table: Table) -> tuple[Column, str] | None:
    """The column by which rows are "longer" or "cheaper", and the comparison."""
    words, operator = COMPARED.get(adjective, ((), ""))
    column = _named(words, table)
    return (column, operator) if column is not None else None


def ending_in_iest(adjective: str) -> str:
    """ "windiest" is about wind; empty for what is built otherwise."""
    return adjective[: -len("iest")] if adjective.endswith("iest") and len(adjective) > len("iest") + 2 else ""


def _named(words: tuple[str, ...], table: Table) -> Column | None:
    known = [c for c in table.columns.values() if (c.numeric or c.temporal) and c.name not in table.links]
    return next((c for word in words if word for c in known if word in stems(c.name)), None)
