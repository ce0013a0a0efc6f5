"""One result tells rows by a key and another by the label beside it: the same rows, where the database ties the two."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any, Final

from sqlglot import exp

from harquel.core.domain.catalog import LOOKED_INTO
from harquel.core.domain.result import Result
from harquel.core.review.statement import Ref, Statement
from harquel.core.sql.tree import identifier, render

_MOST_PAIRS: Final = 4
"""Pairs of columns that are looked up."""

Look = Callable[[str], list[list[Any]] | None]


def renamed(one: Statement, other: Statement, result: Result, engine: str, look: Look) -> list[Result]:
    """The other's result with columns of it told as the first tells them, one at a time and then all together.

    `result` is what the other gave. A column is told otherwise where both are plain columns of one table in which each
    value of the one stands beside one value of the other only.
    """
    here, there = _plain_columns(one), _plain_columns(other)
    if len(there) != len(result.columns):
        return []
    found: list[Result] = []
    together, looked = result, 0
    for place, ref in enumerate(there):
        for wanted in here:
            if ref is None or wanted is None or looked >= _MOST_PAIRS or not _two_of_one(ref, wanted):
                continue
            if any(w is not None and w.table is ref.table and w.column is ref.column for w in here):
                continue
            looked += 1
            known = _tied(ref, wanted, engine, look)
            if known is not None:
                found.append(_told(result, place, known))
                together = _told(together, place, known)
                break
    return [*found, together] if len(found) > 1 else found


def _two_of_one(ref: Ref, wanted: Ref) -> bool:
    return wanted.table is ref.table and wanted.column is not ref.column and {
        ref.column.kind, wanted.column.kind
    } <= LOOKED_INTO  # fmt: skip


def _plain_columns(statement: Statement) -> list[Ref | None]:
    if not statement.levels:
        return []
    found = []
    for node in statement.outer.select.expressions:
        origin, _ = statement.origin(node.unalias(), statement.outer)
        found.append(statement.ref(origin))
    return found


def _tied(ref: Ref, wanted: Ref, engine: str, look: Look) -> dict[Any, Any] | None:
    names = [exp.column(identifier(r.column.name)) for r in (ref, wanted)]
    name = ref.table.name
    table = exp.to_table(name) if "." in name else exp.Table(this=identifier(name))
    asked = exp.select(*names).from_(table).distinct()
    rows = look(render(asked, engine))
    if not rows or len({a for a, _ in rows}) != len(rows) or len({b for _, b in rows}) != len(rows):
        return None
    return dict(rows)


def _told(result: Result, place: int, known: dict[Any, Any]) -> Result:
    rows = [[known.get(v, v) if p == place else v for p, v in enumerate(row)] for row in result.rows]
    return replace(result, rows=rows)
