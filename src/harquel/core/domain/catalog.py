"""What a database holds, as the last scan saw it."""

from __future__ import annotations

import datetime as dt
import hashlib
import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Final, Literal

Value = str | int | float | bool | None
ColumnKind = Literal["number", "text", "temporal", "boolean", "json", "binary", "list", "other"]
LOOKED_INTO: Final = frozenset({"number", "text", "temporal", "boolean"})
"""Kinds of columns whose values say something; of the others none is read."""

# Type names of SQLite, PostgreSQL and MariaDB, the first that fits decides.
_KINDS: tuple[tuple[ColumnKind, str], ...] = (
    ("list", r"\[\]$|^ARRAY"),
    ("json", r"JSON"),
    ("boolean", r"^BOOL|^TINYINT\(1\)|^BIT\(1\)"),
    ("temporal", r"DATE|TIME|^YEAR\b"),
    ("number", r"^(TINY|SMALL|MEDIUM|BIG)?INT|^INTEGER|SERIAL|REAL|DOUBLE|FLOAT|DEC|NUM|^MONEY"),
    ("text", r"CHAR|TEXT|CLOB|STRING|^ENUM|^SET\b|^UUID|^NAME\b|^CITEXT"),
    ("binary", r"BLOB|BINARY|BYTEA|^BIT"),
)


@lru_cache(maxsize=4096)
def kind_of(type_name: str) -> ColumnKind:
    """What sort of values a type of that name holds."""
    name = type_name.upper()
    return next((kind for kind, pattern in _KINDS if re.search(pattern, name)), "other")


@dataclass(frozen=True)
class Column:
    """One column. What the profile saw is empty for columns that may not be looked into.

    `options` are the only values that the structure allows (enumeration or check), `samples` frequent
    values, most frequent first, `low` and `high` the ends of numbers and times, `null_share` between 0 and 1,
    `distinct` the number of different values (at least, where the table was sampled).
    """

    name: str
    type: str
    nullable: bool
    primary_key: bool = False
    unique: bool = False
    default: str | None = None
    comment: str = ""
    options: tuple[str, ...] = ()
    readable: bool = True
    looks_personal: bool = False
    """Proposed by the scan from name and type; the policy has the last word."""
    samples: tuple[Value, ...] = ()
    complete: bool = False
    """Whether `samples` are all the values that the column held at the scan."""
    distinct: int | None = None
    null_share: float | None = None
    low: Value = None
    high: Value = None

    @property
    def kind(self) -> ColumnKind:
        """What sort of values it holds, by its type's name."""
        kind = kind_of(self.type)
        return "text" if self.options and kind != "number" else kind

    def unprofiled(self) -> Column:
        """The same without anything that was read from its values."""
        return replace(self, samples=(), complete=False, distinct=None, null_share=None, low=None, high=None)


@dataclass(frozen=True)
class ForeignKey:
    """`columns` of this table point at `references` of `table`, position by position.

    `declared_by` is empty for a key of the database and the steward's word for one of the notes.
    """

    columns: tuple[str, ...]
    table: str
    references: tuple[str, ...]
    declared_by: str = ""


@dataclass(frozen=True)
class Index:
    """An index over columns, in their order."""

    name: str
    columns: tuple[str, ...]
    unique: bool = False


@dataclass(frozen=True)
class Table:
    """A table or view; `kind` is table, view or materialized view.

    `name` is what people and models call it: qualified with `schema` outside the default one.
    `row_count` is None where nobody knows, an estimate where `estimated`; `sampled` says that the
    profile looked at a part only. `readable` is whether our account may read it; `problem` says what
    the scan could not do with it.
    """

    name: str
    kind: str
    columns: tuple[Column, ...]
    foreign_keys: tuple[ForeignKey, ...] = ()
    row_count: int | None = None
    schema: str = ""
    comment: str = ""
    unique: tuple[tuple[str, ...], ...] = ()
    checks: tuple[str, ...] = ()
    indexes: tuple[Index, ...] = ()
    estimated: bool = False
    sampled: bool = False
    readable: bool = True
    problem: str = ""

    @property
    def plain(self) -> str:
        """The name without the schema."""
        return self.name.removeprefix(f"{self.schema}.") if self.schema else self.name

    def column(self, name: str) -> Column | None:
        """The column of that name: exactly so written, otherwise without regard to case."""
        alike = self._by_name.get(name.casefold(), ())
        return next((c for c in alike if c.name == name), alike[0] if alike else None)

    @cached_property
    def _by_name(self) -> dict[str, list[Column]]:
        names: dict[str, list[Column]] = {}
        for column in self.columns:
            names.setdefault(column.name.casefold(), []).append(column)
        return names

    @cached_property
    def folded(self) -> dict[str, str]:
        """The names of the columns by how they are read without regard to case; nobody changes it."""
        return {column.name.casefold(): column.name for column in self.columns}

    def shared_by_many(self, column: Column) -> bool:
        """Whether a column says a kind of thing rather than which: each value stands for two rows or more."""
        return bool(column.distinct and self.row_count) and (column.distinct or 0) * 2 <= (self.row_count or 0)

    def structure(self) -> str:
        """A digest of what CREATE TABLE would say; the profile does not count."""
        parts = [
            self.name, self.kind, self.comment, self.foreign_keys, self.unique, self.checks, self.indexes,
            self.readable,
            [(c.name, c.type, c.nullable, c.primary_key, c.default, c.comment, c.options, c.readable)
             for c in self.columns],
        ]  # fmt: skip
        return hashlib.sha256(repr(parts).encode()).hexdigest()[:16]


@dataclass(frozen=True)
class Catalog:
    """All tables of a source. `fingerprint` changes when the structure does.

    `default_schema` is where names without a schema lie: the schema, on MariaDB the database, on SQLite main.
    """

    engine: str
    tables: tuple[Table, ...]
    fingerprint: str
    scanned_at: dt.datetime
    default_schema: str = ""
    number: int = 0
    """Counts the versions of a source; 0 for one that is not kept."""
    _by_name: dict[str, list[Table]] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        names: dict[str, list[Table]] = {}
        for table in self.tables:
            names.setdefault(table.name.casefold(), []).append(table)
        object.__setattr__(self, "_by_name", names)

    def table(self, name: str) -> Table | None:
        """The table of that name: exactly so written, otherwise without regard to case."""
        alike = self._by_name.get(name.casefold(), [])
        return next((t for t in alike if t.name == name), alike[0] if alike else None)

    def behind(self, view: Table) -> Table | None:
        """The table some rows of which a view shows, as far as names tell: it has the view's columns, each of them.

        A view has no keys of its own and says of no column that it is never empty.
        """
        if view.kind == "table":
            return None
        names = {c.name.casefold() for c in view.columns}
        alike = [t for t in self.tables if t.kind == "table" and names <= {c.name.casefold() for c in t.columns}]
        return min(alike, key=lambda t: (len(t.columns), t.name), default=None)

    def only(self, shows: Callable[[str, str | None], bool]) -> Catalog:
        """A catalog in which what is not shown, or not readable, does not exist: no table, column or key of it.

        `shows(table, None)` decides on a table, `shows(table, column)` on one of its columns.
        """
        kept = []
        for table in self.tables:
            if not table.readable or not shows(table.name, None):
                continue
            columns = tuple(c for c in table.columns if c.readable and shows(table.name, c.name))
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
                unique=tuple(u for u in t.unique if set(u) <= names[t.name]),
                indexes=tuple(i for i in t.indexes if set(i.columns) <= names[t.name]),
            )
            for t in kept
        )
        return replace(self, tables=tables)


def fingerprint_of(tables: tuple[Table, ...]) -> str:
    """One digest over the structure of all tables, whatever their order."""
    return hashlib.sha256(" ".join(sorted(t.structure() for t in tables)).encode()).hexdigest()[:16]
