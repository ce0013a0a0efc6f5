"""Which columns hold amounts that can be added up, or figures at all."""

from __future__ import annotations

from .english import ADDITIVE
from .prompt import Column, Table
from .words import stems


def additive(column: Column) -> bool:
    """Whether amounts of it are added up rather than averaged."""
    each = "per" in stems(column.name) or " per " in f" {column.unit} "
    return not each and bool(ADDITIVE.search(f"{column.name} {column.unit}"))


def figure_like(column: Column) -> bool:
    """Whether it is a figure, and no code or number that only tells things apart."""
    return column.numeric and not column.codes and bool(column.unit or ADDITIVE.search(column.name))


def amounts(table: Table) -> list[Column]:
    """The columns of a table in a unit that is added up."""
    return [c for c in table.columns.values() if c.numeric and c.unit and ADDITIVE.search(c.unit)]
