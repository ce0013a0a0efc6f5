"""How a column is reached from the table whose rows are looked at: along keys, each to one row, never to many.

So that no join of ours multiplies what is counted.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from harquel.core.domain.catalog import Catalog, Column, ForeignKey, Table
from harquel.core.nearest import nearest

FURTHEST: Final = 6
"""Keys in a row."""


class NoControl(Exception):
    """A reading from which no statement can be built; the message says why, for a model and for people."""


@dataclass(frozen=True)
class Step:
    """A key of a table, followed to the row it points at."""

    table: Table
    key: ForeignKey

    @property
    def loose(self) -> bool:
        """Whether it may point at nothing."""
        columns = (self.table.column(name) for name in self.key.columns)
        return any(column is None or (column.nullable and not column.primary_key) for column in columns)


@dataclass(frozen=True)
class Way:
    """From a table along keys to a column."""

    steps: tuple[Step, ...]
    table: Table
    column: Column


def table_named(name: str, catalog: Catalog) -> Table:
    """Raises NoControl."""
    table = catalog.table(name)
    if table is None:
        near = nearest(name, [t.name for t in catalog.tables], 3)
        raise NoControl(f'There is no table "{name}".' + (f" Nearest: {', '.join(near)}." if near else ""))
    return table


def way_to(name: str, base: Table, catalog: Catalog) -> Way:
    """The way to a column by its name, `table.column`, or `key>table.column` where several lead there.

    Raises NoControl.
    """
    *keys, last = (part.strip() for part in name.split(">"))
    owner, _, plain = last.rpartition(".")
    table = table_named(owner, catalog) if owner else base
    column = table.column(plain)
    if column is None:
        near = nearest(plain, [c.name for c in table.columns], 3)
        raise NoControl(f'{table.name} has no column "{plain}".' + (f" Nearest: {', '.join(near)}." if near else ""))
    if len(keys) > FURTHEST:
        raise NoControl(f"{len(keys)} keys in a row are more than {FURTHEST}.")
    steps = _along(keys, base, catalog) if keys else steps_to(table, base, catalog)
    ends = _end(steps[-1], catalog) if steps else base
    if ends.name != table.name:
        raise NoControl(f"{' > '.join(keys)} leads from {base.name} to {ends.name}, not to {table.name}.")
    return Way(steps, table, column)


def _along(keys: list[str], base: Table, catalog: Catalog) -> tuple[Step, ...]:
    steps: list[Step] = []
    for name in keys:
        bare = name.rpartition(".")[2].casefold()
        found = [k for k in base.foreign_keys if bare in {c.casefold() for c in k.columns}]
        if len(found) != 1:
            raise NoControl(f'{base.name} has no key "{name}" that points at one table.')
        steps.append(Step(base, found[0]))
        base = _end(steps[-1], catalog)
    return tuple(steps)


def steps_to(table: Table, base: Table, catalog: Catalog) -> tuple[Step, ...]:
    """The only shortest way along keys from a table to another. Raises NoControl."""
    reached: dict[str, list[tuple[Step, ...]]] = {base.name: [()]}
    front = reached
    for _ in range(FURTHEST + 1):
        if table.name in front:
            return _only(front[table.name], base, table)
        front = _further(front, reached, catalog)
        reached |= front
    raise NoControl(f"No keys lead from {base.name} to {table.name}, one row to one.")


def _further(
    front: dict[str, list[tuple[Step, ...]]], reached: dict[str, list[tuple[Step, ...]]], catalog: Catalog
) -> dict[str, list[tuple[Step, ...]]]:
    """One key further; of the ways to a table two are enough to see that there is more than one."""
    found: dict[str, list[tuple[Step, ...]]] = {}
    for name, ways in front.items():
        here = catalog.table(name)
        for key in here.foreign_keys if here is not None else ():
            if key.table not in reached and here is not None:
                there = found.setdefault(key.table, [])
                there += [(*way, Step(here, key)) for way in ways][: 2 - len(there)]
    return found


def _only(ways: list[tuple[Step, ...]], base: Table, table: Table) -> tuple[Step, ...]:
    if len(ways) > 1:
        named = " or ".join(">".join(",".join(s.key.columns) for s in way) for way in ways)
        raise NoControl(f"Several keys lead from {base.name} to {table.name}: name one of them ({named}).")
    return ways[0]


def _end(step: Step, catalog: Catalog) -> Table:
    return table_named(step.key.table, catalog)


def pointing(inner: Table, outer: Table, key: str | None, catalog: Catalog) -> tuple[Step, ...]:
    """How rows of a table point at those of another, by a key of theirs where several do. Raises NoControl."""
    steps = _along([key], inner, catalog) if key is not None else steps_to(outer, inner, catalog)
    if not steps or _end(steps[-1], catalog).name != outer.name:
        raise NoControl(f"{inner.name} does not point at {outer.name}" + (f" by {key}." if key else "."))
    return steps
