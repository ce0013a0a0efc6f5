"""Loads the demo world into PostgreSQL and MariaDB."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable
from typing import Any

from .servers import Mariadb, Postgresql, Server
from .world import TABLES, VIEWS, Table, World

READER, READER_PASSWORD = "reader", "only-reads"
# The one expression of the world that each engine writes in its own way: five minutes after the timetable.
ON_TIME_LIMIT = {
    "sqlite": "DATETIME({0}, '+5 minutes')",
    "postgresql": "{0} + INTERVAL '5 minutes'",
    "mariadb": "{0} + INTERVAL 5 MINUTE",
}
_POSTGRESQL = {
    "integer": "INTEGER", "text": "TEXT", "real": "DOUBLE PRECISION", "decimal": "NUMERIC(12, 2)",
    "boolean": "BOOLEAN", "date": "DATE", "timestamp": "TIMESTAMP",
}  # fmt: skip
_MARIADB = {
    "integer": "INT", "text": "VARCHAR(500)", "real": "DOUBLE", "decimal": "DECIMAL(12, 2)",
    "boolean": "BOOLEAN", "date": "DATE", "timestamp": "DATETIME",
}  # fmt: skip
_ESCAPED = str.maketrans({"\\": "\\\\", "\t": "\\t", "\n": "\\n"})


def _columns(table: Table, types: dict[str, str], quote: str, comments: bool) -> list[str]:
    lines = []
    for column in table.columns:
        parts = [f"{quote}{column.name}{quote}", types[column.kind], "NULL" if column.null else "NOT NULL"]
        if comments and column.comment:
            parts.append(f"COMMENT {_text(column.comment)}")
        if column.check:
            parts.append(f"CHECK ({column.check})")
        lines.append(" ".join(parts))
    lines.append(f"PRIMARY KEY ({', '.join(f'{quote}{c}{quote}' for c in table.key)})")
    lines += [f"UNIQUE ({', '.join(f'{quote}{c}{quote}' for c in unique)})" for unique in table.unique]
    return lines


def _foreign(table: Table, quote: str) -> Iterable[str]:
    for column in table.columns:
        if column.references:
            target, key = column.references.split(".")
            yield (
                f"ALTER TABLE {quote}{table.name}{quote} ADD FOREIGN KEY ({quote}{column.name}{quote}) "
                f"REFERENCES {quote}{target}{quote} ({quote}{key}{quote})"
            )


def _indexes(table: Table, quote: str) -> Iterable[str]:
    for columns in table.indexes:
        name = f"{table.name}_{'_'.join(columns)}"
        listed = ", ".join(f"{quote}{c}{quote}" for c in columns)
        yield f"CREATE INDEX {quote}{name}{quote} ON {quote}{table.name}{quote} ({listed})"


def _views(engine: str) -> Iterable[str]:
    limit = ON_TIME_LIMIT[engine].format("s.scheduled_departure")
    return (view.format(on_time_limit=limit) for view in VIEWS.values())


def load_postgresql(server: Postgresql, database: str = "ferries", scale: float = 1.0) -> int:
    """Makes the database with a reader account that may only read; returns the number of rows."""
    server.run(f'CREATE DATABASE "{database}"')
    total = 0
    with server.connect(database) as connection:
        for table in TABLES:
            body = ",\n  ".join(_columns(table, _POSTGRESQL, '"', comments=False))
            connection.execute(f'CREATE TABLE "{table.name}" (\n  {body}\n)')
            connection.execute(f'COMMENT ON TABLE "{table.name}" IS {_text(table.comment)}')
            for column in table.columns:
                if column.comment:
                    connection.execute(f'COMMENT ON COLUMN "{table.name}"."{column.name}" IS {_text(column.comment)}')
        booleans = {t.name: [i for i, c in enumerate(t.columns) if c.kind == "boolean"] for t in TABLES}
        for name, rows in World(scale).tables():
            with connection.cursor().copy(f'COPY "{name}" FROM STDIN') as copy:
                for row in rows:
                    values = list(row)
                    for index in booleans[name]:
                        values[index] = bool(values[index])
                    copy.write_row(values)
                    total += 1
        for table in TABLES:
            for statement in (*_foreign(table, '"'), *_indexes(table, '"')):
                connection.execute(statement)
        for view in _views("postgresql"):
            connection.execute(view)
        connection.execute("ANALYZE")
        if not connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", [READER]).fetchone():
            connection.execute(f"CREATE ROLE {READER} LOGIN PASSWORD '{READER_PASSWORD}'")
        connection.execute(f"GRANT SELECT ON ALL TABLES IN SCHEMA public TO {READER}")
        connection.execute(f"ALTER DEFAULT PRIVILEGES IN SCHEMA public GRANT SELECT ON TABLES TO {READER}")
    return total


def load_mariadb(server: Mariadb, database: str = "ferries", scale: float = 1.0, like: str = "") -> int:
    """Makes the database with a reader account that may only read; returns the number of rows.

    `like` is a database of that server with the same world, from which it is copied.
    """
    server.run(f"CREATE DATABASE `{database}` CHARACTER SET utf8mb4")
    total = 0
    with server.connect(database, takes_files=True) as connection, connection.cursor() as cursor:
        cursor.execute("SET foreign_key_checks = 0, autocommit = 0")
        for table in TABLES:
            body = ",\n  ".join(_columns(table, _MARIADB, "`", comments=True))
            cursor.execute(f"CREATE TABLE `{table.name}` (\n  {body}\n) COMMENT {_text(table.comment)}")
        for table in TABLES if like else ():
            total += cursor.execute(f"INSERT INTO `{table.name}` SELECT * FROM `{like}`.`{table.name}`")
        if not like:
            total = _fill(cursor, scale)
        connection.commit()
        for table in TABLES:
            for sql in (*_foreign(table, "`"), *_indexes(table, "`")):
                cursor.execute(sql)
        for view in _views("mariadb"):
            cursor.execute(view)
        cursor.execute(f"ANALYZE TABLE {', '.join(f'`{t.name}`' for t in TABLES)}")
        cursor.fetchall()
        cursor.execute(f"CREATE USER IF NOT EXISTS '{READER}'@'%' IDENTIFIED BY '{READER_PASSWORD}'")
        cursor.execute(f"GRANT SELECT, SHOW VIEW ON `{database}`.* TO '{READER}'@'%'")
        connection.commit()
    return total


def _fill(cursor: Any, scale: float) -> int:
    """From a file of our own: writing each value into a statement takes the driver four times as long.

    That the server takes files is switched on for as long as that takes only.
    """
    cursor.execute("SET GLOBAL local_infile = 1")
    total = 0
    try:
        with tempfile.NamedTemporaryFile("w+", encoding="utf-8", newline="") as file:
            for name, rows in World(scale).tables():
                file.seek(0)
                file.truncate()
                file.writelines("\t".join(map(_field, row)) + "\n" for row in rows)
                file.flush()
                total += cursor.execute(f"LOAD DATA LOCAL INFILE {_text(file.name)} INTO TABLE `{name}`")
    finally:
        cursor.execute("SET GLOBAL local_infile = 0")
    return total


def _field(value: Any) -> str:
    if value is None:
        return "\\N"
    if isinstance(value, str):
        return value.translate(_ESCAPED)
    return str(int(value)) if isinstance(value, bool) else str(value)


def _text(value: str) -> str:
    return "'" + value.replace("'", "''") + "'"


def load_server(server: Server, scale: float = 1.0) -> int:
    """Into whichever server it is."""
    return load_postgresql(server, scale=scale) if isinstance(server, Postgresql) else load_mariadb(server, scale=scale)  # type: ignore[arg-type]


def notes_for(engine: str, notes: str) -> str:
    """The demo's notes as another engine needs them."""
    column = "sailing.scheduled_departure"
    return notes.replace(ON_TIME_LIMIT["sqlite"].format(column), ON_TIME_LIMIT[engine].format(column))
