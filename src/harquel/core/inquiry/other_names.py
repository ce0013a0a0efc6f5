"""One result tells rows by a key and another by the label beside it: the same rows, where the database ties the two."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Final

from sqlglot import exp

from harquel.core.domain.catalog import Column, Table
from harquel.core.domain.result import Result
from harquel.core.review.statement import Ref, Statement
from harquel.core.sql.tree import identifier, render

_MOST_PAIRS: Final = 4
"""Pairs of columns that are looked up."""


@dataclass(frozen=True)
class Names:
    """What is known of names: which columns tell rows apart, and a small query of ours."""

    engine: str
    look: Callable[[str], list[list[Any]] | None]
    tell_apart: Callable[[Table, Column], bool]


def renamed(one: Statement, other: Statement, result: Result, names: Names) -> list[Result]:
    """The other's result with columns of it told as the first tells them, one at a time and then all together.

    `result` is what the other gave. A column is told otherwise only where it says per what the figures are: both
    statements group by that table, each of the two columns tells its rows apart, and the data tie them one to one.
    An address where a name was asked for is another answer, however well the two are tied.
    """
    here, there = _plain_columns(one), _plain_columns(other)
    if len(there) != len(result.columns):
        return []
    found: list[Result] = []
    together, looked = result, 0
    grouped = _grouped(one) & _grouped(other)
    for place, ref in enumerate(there):
        for wanted in here:
            if ref is None or wanted is None or wanted.table is not ref.table or ref.table.name not in grouped:
                continue
            if ref.column in [w.column for w in here if w is not None and w.table is ref.table]:
                continue
            if looked >= _MOST_PAIRS or not all(names.tell_apart(r.table, r.column) for r in (ref, wanted)):
                continue
            looked += 1
            known = _tied(ref, wanted, names)
            if known is not None:
                found.append(_told(result, place, known))
                together = _told(together, place, known)
                break
    return [*found, together] if len(found) > 1 else found


def _plain_columns(statement: Statement) -> list[Ref | None]:
    if not statement.levels:
        return []
    found = []
    for node in statement.outer.select.expressions:
        origin, _ = statement.origin(node.unalias(), statement.outer)
        found.append(pointed_at(statement, statement.ref(origin)))
    return found


def pointed_at(statement: Statement, ref: Ref | None) -> Ref | None:
    """What a key points at stands for the key itself."""
    for key in ref.table.foreign_keys if ref is not None else ():
        if ref is not None and key.columns == (ref.column.name,):
            table = statement.catalog.table(key.table)
            column = table.column(key.references[0]) if table is not None else None
            return Ref(table, column) if table is not None and column is not None else ref
    return ref


def _grouped(statement: Statement) -> set[str]:
    refs = (
        pointed_at(statement, statement.ref(statement.origin(g, level)[0]))
        for level in statement.levels
        for g in level.groups
    )
    return {r.table.name for r in refs if r is not None}


def _tied(ref: Ref, wanted: Ref, names: Names) -> dict[Any, Any] | None:
    columns = [exp.column(identifier(r.column.name)) for r in (ref, wanted)]
    name = ref.table.name
    table = exp.to_table(name) if "." in name else exp.Table(this=identifier(name))
    rows = names.look(render(exp.select(*columns).from_(table), names.engine))
    if not rows or any(len({row[side] for row in rows}) != len(rows) for side in (0, 1)):
        return None
    return dict(rows)


def _told(result: Result, place: int, known: dict[Any, Any]) -> Result:
    rows = [[known.get(v, v) if p == place else v for p, v in enumerate(row)] for row in result.rows]
    return replace(result, rows=rows)
