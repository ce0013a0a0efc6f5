"""One scan: the structure of everything, then the values of what is new, table by table."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Final, Literal

from harquel.core.domain.catalog import LOOKED_INTO, Catalog, Column, Table
from harquel.core.domain.policy import Policy
from harquel.core.engines.base import Engine
from harquel.core.errors import Cancelled

PROFILE_S: Final = 2.0
"""Longest time for the values of one table."""
_SEEN: Final = ("samples", "complete", "distinct", "null_share", "low", "high")


@dataclass(frozen=True)
class Progress:
    """How far a scan is: `done` of `tables` are looked into, `now` is the one under way."""

    stage: Literal["structure", "values", "ended"]
    tables: int = 0
    done: int = 0
    now: str = ""


@dataclass(frozen=True)
class ScanOrder:
    """What to scan and what need not be looked into again.

    `known` are tables whose values were seen earlier (the last version, or the part of a scan that was
    interrupted); they count while their structure is the same.
    """

    engine: Engine
    policy: Policy
    known: Mapping[str, Table]
    profile_s: float = PROFILE_S


def run_scan(
    order: ScanOrder,
    tell: Callable[[Progress], None],
    structured: Callable[[Catalog], None],
    seen: Callable[[Table], None],
    stopped: Callable[[], bool],
) -> Catalog:
    """The new catalog, whole.

    1. the structure; `structured` gets it with whatever is known of values
    2. the values of what is exposed and not known, never those of personal columns; `seen` gets each table
    Raises SourceError, or Cancelled when `stopped` says so between two tables.
    """
    tell(Progress("structure"))
    # 1
    found = order.engine.structure()
    tables = {t.name: _with_known(t, order.known.get(t.name), order.policy) for t in found.tables}
    structured(replace(found, tables=tuple(tables.values())))
    # 2
    waiting = [t for t in tables.values() if order.policy.shows(t.name, None) and not _looked_into(t, order)]
    done = len(tables) - len(waiting)
    for table in waiting:
        if stopped():
            raise Cancelled("the scan was stopped")
        tell(Progress("values", len(tables), done, table.name))
        columns = [c.name for c in table.columns if may_look(order.policy, table.name, c)]
        looked = _kept(order.engine.profile(table, columns, order.profile_s), order.policy)
        tables[table.name] = looked
        seen(looked)
        done += 1
    tell(Progress("ended", len(tables), done))
    return replace(found, tables=tuple(tables.values()))


def _kept(table: Table, policy: Policy) -> Table:
    """Without the values of columns that turned out to be personal as they were read."""
    columns = tuple(c.unprofiled() if policy.is_personal(table.name, c) else c for c in table.columns)
    return replace(table, columns=columns)


def may_look(policy: Policy, table: str, column: Column) -> bool:
    """Whether the scan may read values of a column: exposed, readable, and not personal."""
    return column.readable and policy.shows(table, column.name) and not policy.is_personal(table, column)


def _looked_into(table: Table, order: ScanOrder) -> bool:
    """Whether everything of it that may be seen has been seen; a policy may have opened more since."""
    known = order.known.get(table.name)
    if known is None or known.structure() != table.structure():
        return False
    if known.problem or table.kind == "view":
        return True
    columns = (c for c in known.columns if c.kind in LOOKED_INTO and may_look(order.policy, table.name, c))
    return all(c.distinct is not None for c in columns)


def _with_known(table: Table, known: Table | None, policy: Policy) -> Table:
    """The table as it is now with what was seen of its values before, as far as that may still be kept."""
    if known is None:
        return table
    columns = []
    for column in table.columns:
        before = known.column(column.name)
        if before is not None and before.type == column.type and known.structure() == table.structure():
            # What its values told at an earlier scan still holds.
            column = replace(column, looks_personal=column.looks_personal or before.looks_personal)
        if before is not None and before.type == column.type and may_look(policy, table.name, column):
            column = replace(column, **{name: getattr(before, name) for name in _SEEN})
        columns.append(column)
    made = replace(table, columns=tuple(columns), sampled=known.sampled)
    if known.structure() != table.structure():
        return made
    return replace(
        made, row_count=known.row_count, estimated=known.estimated, problem=table.problem or known.problem
    )  # fmt: skip
