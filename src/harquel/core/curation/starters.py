"""Good first questions for a source: those that a steward gave, those of examples, and the shapes that recur."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from harquel.core.briefing import CatalogIndex
from harquel.core.domain.catalog import Column, Table
from harquel.core.domain.notes import Measure

MOST: Final = 8


def propose_starters(index: CatalogIndex, given: Sequence[str], examples: Sequence[str]) -> list[str]:
    """Candidates, best first; each is to be tried before anybody sees it.

    The shapes are counted per group, by name, by year, after a date, top n.
    """
    found = [*given, *examples, *_of_measures(index), *_of_tables(index)]
    return list(dict.fromkeys(found))[: 2 * MOST]


def _of_measures(index: CatalogIndex) -> list[str]:
    found = []
    for name, measure, _, _ in index.measures:
        if measure.when:
            found.append(f"{name.capitalize()} per month this year")
        named = _nearest_named(index, measure)
        if named is not None and measure.better:
            found.append(f"Top 5 {_plural(named)} by {name}")
    return found


def _nearest_named(index: CatalogIndex, measure: Measure) -> Table | None:
    """The table with names that lies nearest along keys: from what dates the figure, then from what it is made of."""
    start = [measure.when.split(".", 1)[0]] if measure.when else []
    todo = [*start, measure.of]
    seen = set(todo)
    for name in todo:
        table = index.catalog.table(name)
        if table is None:
            continue
        if index.notes.of(table.name).label and table.name != measure.of:
            return table
        todo += [k.table for k in table.foreign_keys if k.table not in seen]
        seen |= {k.table for k in table.foreign_keys}
    return None


def _of_tables(index: CatalogIndex) -> list[str]:
    found = []
    tables = sorted((t for t in index.catalog.tables if t.kind == "table"), key=lambda t: -(t.row_count or 0))
    for table in tables[:4]:
        about = index.notes.of(table.name)
        found.append(f"How many {_plural(table)} are there?")
        if about.when:
            found.append(f"How many {_plural(table)} per month this year?")
        grouped = next((c for c in table.columns if _groups(table, c)), None)
        if grouped is not None:
            found.append(f"How many {_plural(table)} per {grouped.name.replace('_', ' ')}?")
    return found


def _groups(table: Table, column: Column) -> bool:
    """Whether the rows of a table fall into groups by a column: a few values known, and more rows than values."""
    if column.kind != "text" or not column.complete or len(column.samples) < 2 or column.unique:
        return False
    return table.row_count is None or table.row_count >= 2 * len(column.samples)


def _plural(table: Table) -> str:
    name = table.plain.replace("_", " ").lower()
    if name.endswith("s"):
        return name
    return name[:-1] + "ies" if name.endswith("y") and name[-2:-1] not in "aeiou" else name + "s"
