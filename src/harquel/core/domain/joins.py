"""Joins that no key of the database says: those that people declared, and those that we would propose."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace

from harquel.core.domain.catalog import Catalog, Column, ForeignKey, Table
from harquel.core.domain.notes import Notes


def with_declared(catalog: Catalog, notes: Notes) -> Catalog:
    """The catalog with the declared joins as keys, those whose tables and columns exist."""
    extra: dict[str, list[ForeignKey]] = defaultdict(list)
    for join in notes.joins:
        name, columns, other, references = join.ends()
        table, target = catalog.table(name), catalog.table(other)
        if table is None or target is None or len(columns) != len(references):
            continue
        here, there = [table.column(c) for c in columns], [target.column(c) for c in references]
        if None not in here and None not in there:
            key = ForeignKey(
                tuple(c.name for c in here if c), target.name, tuple(c.name for c in there if c),
                join.text or "by a steward",
            )  # fmt: skip
            if not any(k.columns == key.columns and k.table == key.table for k in table.foreign_keys):
                extra[table.name].append(key)
    if not extra:
        return catalog
    tables = (replace(t, foreign_keys=t.foreign_keys + tuple(extra[t.name])) for t in catalog.tables)
    return replace(catalog, tables=tuple(tables))


@dataclass(frozen=True)
class ProposedJoin:
    """A join that names and values suggest; `why` says what speaks for it."""

    table: str
    column: str
    to_table: str
    to_column: str
    why: str


def propose_joins(catalog: Catalog) -> list[ProposedJoin]:
    """Joins from a column to the single key of a table whose name it bears, where the values fit."""
    targets: dict[str, list[tuple[Table, Column]]] = defaultdict(list)
    for table in catalog.tables:
        keys = [c for c in table.columns if c.primary_key]
        if len(keys) == 1 and table.kind == "table":
            for name in {table.plain.casefold(), table.plain.casefold().rstrip("s")}:
                targets[name].append((table, keys[0]))
    found = []
    for table in catalog.tables:
        if table.kind == "view":
            continue
        known = {c for k in table.foreign_keys for c in k.columns}
        for column in table.columns:
            if column.name not in known:
                found += _from(table, column, targets)
    return found


def _from(table: Table, column: Column, targets: dict[str, list[tuple[Table, Column]]]) -> list[ProposedJoin]:
    name = column.name.casefold()
    bare = next((name.removesuffix(e) for e in ("_id", "_no", "_key", "_code", "id") if name.endswith(e)), name)
    found = []
    for target, key in targets.get(bare.strip("_"), ()):
        if target.name == table.name or key.kind != column.kind:
            continue
        if column.low is None or key.low is None:
            why = f"{column.name} bears the name of {target.name}"
        elif _inside(column, key):
            why = f"{column.name} bears the name of {target.name}, and all its values lie within its keys"
        else:
            continue
        found.append(ProposedJoin(table.name, column.name, target.name, key.name, why))
    return found


def _inside(column: Column, key: Column) -> bool:
    ends = (column.low, column.high, key.low, key.high)
    numbers = [v for v in ends if isinstance(v, int | float) and not isinstance(v, bool)]
    return len(numbers) == 4 and numbers[2] <= numbers[0] and numbers[1] <= numbers[3]
