"""Whether a word names something that is there: by a key or a label, as it is written in the data."""

from __future__ import annotations

from .index import CatalogIndex
from .words import fold, split, stem


def names_something(word: str, index: CatalogIndex) -> bool:
    """Whether it is the value of a column that tells rows apart, or by which they are called."""
    wanted = fold(word)
    for hit in index.values.get(tuple(map(stem, split(word))), ()):
        table = index.catalog.tables[hit.table]
        column = table.columns[hit.column]
        called = column.unique or index.notes.of(table.name).label == column.name
        if called and any(isinstance(v, str) and fold(v) == wanted for v in (*column.samples, *column.options)):
            return True
    return False
