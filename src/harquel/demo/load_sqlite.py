"""Loads the demo world into a SQLite file."""

from __future__ import annotations

import datetime as dt
import os
import sqlite3
from decimal import Decimal
from pathlib import Path

from .world import TABLES, VIEWS, Table, World

_TYPES = {
    "integer": "INTEGER", "text": "TEXT", "real": "REAL", "decimal": "DECIMAL(12, 2)",
    "boolean": "BOOLEAN", "date": "DATE", "timestamp": "TIMESTAMP",
}  # fmt: skip
_ON_TIME_LIMIT = "DATETIME(s.scheduled_departure, '+5 minutes')"


def ddl(table: Table) -> list[str]:
    """CREATE TABLE and CREATE INDEX; comments stay in the stored text, SQLite has no others."""
    lines = []
    for column in table.columns:
        parts = [f'"{column.name}"', _TYPES[column.kind]]
        if table.key == (column.name,):
            parts.append("PRIMARY KEY")
        if not column.null:
            parts.append("NOT NULL")
        if column.kind == "boolean":
            parts.append(f'CHECK ("{column.name}" IN (0, 1))')
        if column.check:
            parts.append(f"CHECK ({column.check})")
        if column.references:
            target, key = column.references.split(".")
            parts.append(f'REFERENCES "{target}" ("{key}")')
        lines.append((" ".join(parts), column.comment))
    if len(table.key) > 1:
        lines.append((f"PRIMARY KEY ({', '.join(table.key)})", ""))
    lines += [(f"UNIQUE ({', '.join(unique)})", "") for unique in table.unique]
    body = "\n".join(
        f"  {text}{',' if index < len(lines) - 1 else ''}{f'  -- {comment}' if comment else ''}"
        for index, (text, comment) in enumerate(lines)
    )
    made = [f'CREATE TABLE "{table.name}" (  -- {table.comment}\n{body}\n)']
    for columns in table.indexes:
        name = f"{table.name}_{'_'.join(columns)}"
        made.append(f'CREATE INDEX "{name}" ON "{table.name}" ({", ".join(columns)})')
    return made


def _plain(value: object) -> object:
    if isinstance(value, dt.datetime):
        return value.isoformat(" ")
    if isinstance(value, dt.date):
        return value.isoformat()
    if isinstance(value, Decimal):
        return float(value)
    return int(value) if isinstance(value, bool) else value


def load(path: Path, scale: float = 1.0) -> int:
    """Makes the database at `path` anew, whole or not at all; returns the number of rows.

    Raises OSError or sqlite3.Error when the place cannot be written.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    draft = path.with_name(f".{path.name}.{os.getpid()}.part")
    draft.unlink(missing_ok=True)
    total = 0
    connection = sqlite3.connect(draft)
    try:
        connection.execute("PRAGMA synchronous = OFF")
        connection.execute("PRAGMA journal_mode = MEMORY")
        widths = {}
        for table in TABLES:
            widths[table.name] = len(table.columns)
            connection.execute(ddl(table)[0])
        for name, rows in World(scale).tables():
            marks = ", ".join("?" * widths[name])
            cursor = connection.executemany(
                f'INSERT INTO "{name}" VALUES ({marks})', (tuple(map(_plain, row)) for row in rows)
            )
            total += cursor.rowcount
        for table in TABLES:
            for statement in ddl(table)[1:]:
                connection.execute(statement)
        for view in VIEWS.values():
            connection.execute(view.format(on_time_limit=_ON_TIME_LIMIT))
        connection.commit()
        connection.execute("ANALYZE")
        connection.commit()
    finally:
        connection.close()
    draft.replace(path)
    return total
