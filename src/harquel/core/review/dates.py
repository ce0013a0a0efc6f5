"""By which of its times the rows of a table are counted, where neither notes nor question say so."""

from __future__ import annotations

from typing import Final

from harquel.core.briefing.words import split, stem
from harquel.core.domain.catalog import Column, Table
from harquel.core.domain.notes import Notes

_BEGINS: Final = frozenset(
    stem(w)
    for w in (
        "start begin open issue order book enrol enroll hire place file report raise submit sign register admit "
        "occur happen request log receive invoice depart"
    ).split()
)
_FOLLOWS: Final = frozenset(
    stem(w)
    for w in (
        "end finish close due pay expire deliver promise leave return ship update modify delete cancel complete "
        "resolve expect until valid arrive settle release approve retire last"
    ).split()
)
"""What comes first in the life of a thing dates it; what follows is asked for by its name."""
_UPKEEP: Final = frozenset(
    stem(w) for w in "updated modified changed edited synced loaded inserted imported refreshed created".split()
)
"""Columns of such names say when a row was written, hardly ever what people ask about."""


def event_times(table: Table) -> list[Column]:
    """The times that every row has, without those that only say when it was written."""
    return [
        c for c in table.columns if c.kind == "temporal" and not c.nullable and not _UPKEEP & set(time_stems(c))
    ]  # fmt: skip


def time_stems(column: Column) -> list[str]:
    """The stems in the name of a column of times that say which time it is."""
    return [stem(w) for w in split(column.name) if w not in ("at", "on", "date", "time", "day")]


def leading_time(table: Table, notes: Notes) -> Column | None:
    """The column that dates the rows: as the notes say, or the one that begins what all others follow."""
    said = notes.of(table.name).when
    if said:
        return table.column(said)
    columns = event_times(table)
    first = [c for c in columns if _BEGINS & set(time_stems(c))]
    rest = [c for c in columns if c not in first]
    return first[0] if len(first) == 1 and all(_FOLLOWS & set(time_stems(c)) for c in rest) else None
