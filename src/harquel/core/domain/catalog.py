"""What a database holds, as the last scan saw it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass, field, replace

Value = str | int | float | None


@dataclass(frozen=True)
class Column:
    """One column. `samples` are frequent values of short text columns, most frequent first."""

    name: str
    type: str
    nullable: bool
    primary_key: bool = False
    unique: bool = False
    samples: tuple[Value, ...] = ()
    complete: bool = False
    """Whether `samples` are all the values that the column held at the scan."""


@dataclass(frozen=True)
class ForeignKey:
    """`columns` of this table point at `references` of `table`, position by position."""

    columns: tuple[str, ...]
    table: str
    references: tuple[str, ...]


@dataclass(frozen=True)
class Table:
    """A table or view. `row_count` is exact for SQLite tables, None for views."""

    name: str
    kind: str
    columns: tuple[Column, ...]
    foreign_keys: tuple[ForeignKey, ...] = ()
    row_count: int | None = None

    def column(self, name: str) -> Column | None:
        """The column of that name, without regard to case."""
        wanted = name.casefold()
        return next((c for c in self.columns if c.name.casefold() == wanted), None)


@dataclass(frozen=True)
class Catalog:
    """All tables of a source. `fingerprint` changes when the structure does."""

    engine: str
    tables: tuple[Table, ...]
    fingerprint: str
    scanned_at: dt.datetime
    _by_name: dict[str, Table] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_by_name", {t.name.casefold(): t for t in self.tables})

    def table(self, name: str) -> Table | None:
        """The table of that name, without regard to case."""
        return self._by_name.get(name.casefold())

    def only(self, shows: Callable[[str, str | None], bool]) -> Catalog:
        """A catalog in which what is not shown does not exist: no table, column or key of it.

        `shows(table, None)` decides on a table, `shows(table, column)` on one of its columns.
        """
        kept = []
        for table in self.tables:
            if not shows(table.name, None):
                continue
            columns = tuple(c for c in table.columns if shows(table.name, c.name))
            if columns:
                kept.append(replace(table, columns=columns))
        names = {t.name: {c.name for c in t.columns} for t in kept}
        tables = tuple(
            replace(
                t,
                foreign_keys=tuple(
                    k
                    for k in t.foreign_keys
                    if set(k.columns) <= names[t.name] and set(k.references) <= names.get(k.table, set())
                ),
            )
            for t in kept
        )
        return replace(self, tables=tables)
