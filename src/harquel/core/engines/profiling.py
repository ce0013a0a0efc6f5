"""What the values of a table look like: counts, ends, frequent values. Bounded in time, rows and length.

Values are cut to SAMPLE_LENGTH in the database itself, so that a column of large texts costs nothing.
"""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any, Final

import sqlalchemy as sa
from sqlalchemy.exc import SQLAlchemyError

from harquel.core.domain.catalog import LOOKED_INTO, Column, Table, Value
from harquel.core.domain.personal import is_of_people, values_tell

SAMPLES: Final = 40
"""Most frequent values that are kept of a column."""
SAMPLE_LENGTH: Final = 60
"""Code points that are kept of a value; a longer one ends in an ellipsis."""
SAMPLED_ROWS: Final = 50_000
"""Rows that are looked at; of a bigger table only so many."""
FORM_SAMPLES: Final = 3
"""Of a column with many different values a few show their form."""
_COLUMNS_AT_ONCE: Final = 30
_FEW: Final = 20
_LONG: Final = 10**8


@dataclass(frozen=True)
class Sampling:
    """Where to look: `rows` as FROM element, how many rows the table has, and whether all are looked at."""

    rows: sa.FromClause
    row_count: int | None
    estimated: bool
    whole: bool


def field_of(name: str) -> sa.ColumnClause[Any]:
    """A column by its exact name."""
    return sa.column(sa.sql.quoted_name(name, True))


def relation(table: Table, schema: str | None = None) -> sa.TableClause:
    """A table by its exact name."""
    where = table.schema or schema or None
    quoted = sa.sql.quoted_name(table.plain, True)
    return sa.table(quoted, schema=sa.sql.quoted_name(where, True) if where else None)


def few_rows(table: Table, columns: Sequence[str], few: bool, schema: str | None = None) -> sa.FromClause:
    """The whole of a table that was counted to have few rows, otherwise the first SAMPLED_ROWS in whatever order.

    The whole needs no copy: every engine copies a part with a LIMIT anew for each question about it.
    """
    if few:
        return relation(table, schema)
    listed: list[sa.ColumnElement[Any]] = [field_of(c) for c in columns]
    listed = listed or [sa.literal(1)]
    return sa.select(*listed).select_from(relation(table, schema)).limit(SAMPLED_ROWS).subquery("part")


def count_some(connection: sa.Connection, table: Table, schema: str | None = None) -> int | None:
    """The exact number of rows, None when there are more than SAMPLED_ROWS."""
    part = sa.select(sa.literal(1)).select_from(relation(table, schema)).limit(SAMPLED_ROWS + 1).subquery()
    counted = connection.execute(sa.select(sa.func.count()).select_from(part)).scalar() or 0
    return counted if counted <= SAMPLED_ROWS else None


def profiled(
    connection: sa.Connection, table: Table, columns: Sequence[str], sampling: Sampling, deadline: float
) -> Table:
    """The table with what its values look like; a column that cannot be looked into stays as it was."""
    wanted = [c for c in table.columns if c.name in set(columns) and c.kind in LOOKED_INTO]
    figures: dict[str, Column] = {}
    of_people = is_of_people(table)
    for start in range(0, len(wanted), _COLUMNS_AT_ONCE):
        if time.monotonic() < deadline:
            figures |= _figures(connection, wanted[start : start + _COLUMNS_AT_ONCE], sampling)
    for column in wanted:
        if time.monotonic() >= deadline:
            break
        column = figures.get(column.name, column)
        few = (column.distinct or SAMPLES + 1) <= _FEW
        if column.kind in ("text", "boolean") or (
            column.kind == "number" and not column.primary_key and (few or _long(column))
        ):
            seen = _values(connection, column, sampling, of_people)
            if column.kind == "number" and not few:
                seen = replace(seen, samples=(), complete=False)
            figures[column.name] = seen
    return replace(
        table, columns=tuple(figures.get(c.name, c) for c in table.columns), row_count=sampling.row_count,
        estimated=sampling.estimated, sampled=not sampling.whole,
    )  # fmt: skip


def _figures(connection: sa.Connection, columns: Iterable[Column], sampling: Sampling) -> dict[str, Column]:
    columns = list(columns)
    listed: list[sa.ColumnElement[Any]] = [sa.func.count()]
    for column in columns:
        at = field_of(column.name)
        listed += [sa.func.count(at), sa.func.count(sa.distinct(at)) if column.kind != "boolean" else sa.literal(2)]
        listed += (
            [sa.func.min(at), sa.func.max(at)] if column.kind in ("number", "temporal") else [sa.null(), sa.null()]
        )
    try:
        row = connection.execute(sa.select(*listed).select_from(sampling.rows)).one()
    except SQLAlchemyError:
        if len(columns) == 1:
            return {}
        # One column that cannot be counted must not cost the others theirs.
        found: dict[str, Column] = {}
        for column in columns:
            found |= _figures(connection, [column], sampling)
        return found
    rows = row[0]
    return {
        c.name: replace(
            c, null_share=round(1 - row[4 * i + 1] / rows, 4) if rows else None, distinct=row[4 * i + 2] if rows else 0,
            low=_plain(row[4 * i + 3]), high=_plain(row[4 * i + 4]),
        )
        for i, c in enumerate(columns)
    }  # fmt: skip


def _long(column: Column) -> bool:
    """Whether numbers are long enough for such as name a person; their form is looked at, none is kept."""
    return isinstance(column.low, int) and column.low >= _LONG


def _values(connection: sa.Connection, column: Column, sampling: Sampling, of_people: bool) -> Column:
    at: Any = field_of(column.name)
    if column.kind == "text":
        # Enumerations and the like have no parts until they are texts.
        plain = "CHAR" in column.type or "TEXT" in column.type or not column.type
        at = sa.func.substr(at if plain else sa.cast(at, sa.Text), 1, SAMPLE_LENGTH + 1)
    part = sa.select(at.label("v")).select_from(sampling.rows).where(field_of(column.name).is_not(None)).subquery()
    query = (
        sa.select(part.c.v, sa.func.count().label("n"))
        .group_by(part.c.v).order_by(sa.desc("n"), part.c.v).limit(SAMPLES + 1)
    )  # fmt: skip
    try:
        found = [_plain(row[0]) for row in connection.execute(query)]
    except SQLAlchemyError:
        return column
    few = len(found) <= SAMPLES
    short = not any(isinstance(v, str) and len(v) > SAMPLE_LENGTH for v in found)
    kept = tuple(shortened(v) for v in (found if few else found[:FORM_SAMPLES]) if v is not None)
    if not short:
        kept = kept[:FORM_SAMPLES]
    personal = column.looks_personal or values_tell(found, of_people)
    return replace(column, samples=kept, complete=few and short and sampling.whole, looks_personal=personal)


def shortened(value: Value) -> Value:
    """A value on one line and not longer than SAMPLE_LENGTH."""
    if not isinstance(value, str):
        return value
    line = " ".join(value.split())
    return line if len(line) <= SAMPLE_LENGTH else line[:SAMPLE_LENGTH] + "…"


def _plain(value: Any) -> Value:
    if isinstance(value, Decimal):
        return int(value) if value == value.to_integral_value() else float(value)
    if isinstance(value, dt.datetime):
        return value.isoformat(" ")
    if isinstance(value, dt.date | dt.time):
        return value.isoformat()
    if isinstance(value, bytes):
        return None
    return value if isinstance(value, str | int | float | bool) or value is None else str(value)
