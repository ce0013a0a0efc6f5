"""SQLite: a file on this machine, opened read-only."""

from __future__ import annotations

import datetime as dt
import hashlib
import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Final
from urllib.parse import quote

import sqlalchemy as sa
from sqlalchemy.exc import SQLAlchemyError

from harquel.core.domain.catalog import Catalog, Column, ForeignKey, Table, Value
from harquel.core.domain.policy import Policy
from harquel.core.errors import SourceError

SAMPLES: Final = 40
SAMPLE_LENGTH: Final = 60
SAMPLED_ROWS: Final = 50_000
PROFILE_S: Final = 2.0
"""Longest time for the values of one table."""


class SqliteEngine:
    """One SQLite file."""

    name = "sqlite"
    worker = Path(__file__).resolve().parent.parent / "sandbox" / "worker_sqlite.py"

    def __init__(self, path: Path) -> None:
        self.path = path

    def address(self) -> dict[str, Any]:
        """The file's path."""
        return {"path": str(self.path)}

    def check(self) -> None:
        """Raises SourceError when the file is missing, not readable or not a SQLite database."""
        try:
            with self.path.open("rb") as file:
                head = file.read(16)
        except FileNotFoundError as error:
            raise SourceError(
                f"The database file {self.path} is not there.", "Check the url of the source in harquel.toml."
            ) from error
        except OSError as error:
            raise SourceError(
                f"The database file {self.path} cannot be read ({error.strerror}).",
                "Check that it is a file and that this account may read it.",
            ) from error
        if head and head != b"SQLite format 3\x00":
            raise SourceError(f"{self.path} is not a SQLite database.", "Check the url of the source in harquel.toml.")

    def version(self) -> object:
        """The schema cookie that stands in the file's header, and which file it is."""
        self.check()
        with self.path.open("rb") as file:
            head = file.read(44)
        return (self.path.stat().st_ino, head[40:44])

    @contextmanager
    def _connection(self) -> Iterator[sa.Connection]:
        self.check()
        uri = f"file:{quote(str(self.path))}?mode=ro"

        def connect() -> sqlite3.Connection:
            connection = sqlite3.connect(uri, uri=True, timeout=5.0)
            connection.text_factory = lambda raw: raw.decode("utf-8", "replace")
            connection.execute("PRAGMA query_only = ON")
            return connection

        engine = sa.create_engine("sqlite://", creator=connect, poolclass=sa.pool.NullPool)
        try:
            with engine.connect() as connection:
                yield connection
        except (SQLAlchemyError, sqlite3.Error) as error:
            cause = getattr(error, "orig", None) or error
            raise SourceError(
                f"The database {self.path} cannot be read: {cause}.",
                "Check the file with the sqlite3 tool; it may be damaged or in use by a program that locks it.",
            ) from error
        finally:
            engine.dispose()

    def scan(self, policy: Policy, now: dt.datetime) -> Catalog:
        """See Engine. Values of columns that are withheld are never read."""
        with self._connection() as connection:
            inspector = sa.inspect(connection)
            tables = [self._table(connection, inspector, n, "table", policy) for n in inspector.get_table_names()]
            tables += [self._table(connection, inspector, n, "view", policy) for n in inspector.get_view_names()]
        structure = repr([(t.name, t.kind, [(c.name, c.type) for c in t.columns], t.foreign_keys) for t in tables])
        fingerprint = hashlib.sha256(structure.encode()).hexdigest()[:16]
        return Catalog(self.name, tuple(tables), fingerprint, now)

    def _table(self, connection: sa.Connection, inspector: sa.Inspector, name: str, kind: str, policy: Policy) -> Table:
        shown = policy.shows(name, None)
        described = inspector.get_columns(name)
        keys = set(inspector.get_pk_constraint(name)["constrained_columns"]) if kind == "table" else set()
        unique = (
            {tuple(u["column_names"]) for u in inspector.get_unique_constraints(name)} if kind == "table" else set()
        )
        foreign = inspector.get_foreign_keys(name) if kind == "table" else []
        position = {c["name"]: i for i, c in enumerate(described)}
        foreign.sort(key=lambda f: [position[c] for c in f["constrained_columns"]])
        count = None
        if kind == "table" and shown:
            quoted = sa.sql.quoted_name(name, True)
            count = connection.execute(sa.select(sa.func.count()).select_from(sa.table(quoted))).scalar()
        budget = time.monotonic() + PROFILE_S
        columns = []
        for column in described:
            text = str(column["type"]).upper()
            samples: tuple[Value, ...] = ()
            complete = False
            wanted = shown and policy.shows(name, column["name"]) and ("CHAR" in text or "TEXT" in text)
            if wanted and kind == "table" and time.monotonic() < budget:
                samples, complete = self._samples(connection, name, column["name"], count or 0)
            columns.append(
                Column(
                    name=column["name"],
                    type=text if text != "NULL" else "",
                    nullable=bool(column["nullable"]) and column["name"] not in keys,
                    primary_key=column["name"] in keys,
                    unique=(column["name"],) in unique or keys == {column["name"]},
                    samples=samples,
                    complete=complete,
                )
            )
        return Table(
            name, kind, tuple(columns),
            tuple(
                ForeignKey(tuple(f["constrained_columns"]), f["referred_table"], tuple(f["referred_columns"]))
                for f in foreign
                if f["referred_columns"]
            ),
            count,
        )  # fmt: skip

    def _samples(self, connection: sa.Connection, table: str, column: str, rows: int) -> tuple[tuple[Value, ...], bool]:
        """The most frequent values, when there are few different ones; of a big table its first rows."""
        field: sa.ColumnClause[Any] = sa.column(sa.sql.quoted_name(column, True))
        part = sa.select(field.label("v")).select_from(sa.table(sa.sql.quoted_name(table, True))).limit(SAMPLED_ROWS)
        head = part.subquery()
        query = (
            sa.select(head.c.v, sa.func.count().label("n"))
            .where(head.c.v.is_not(None))
            .group_by(head.c.v)
            .order_by(sa.desc("n"), head.c.v)
            .limit(SAMPLES + 1)
        )
        found = [row[0] for row in connection.execute(query)]
        few = len(found) <= SAMPLES
        values = tuple(v for v in found[:SAMPLES] if isinstance(v, str | int | float))
        short = tuple(v for v in values if not isinstance(v, str) or len(v) <= SAMPLE_LENGTH)
        # Many different values say little about the column: three are enough to show their form.
        return (short if few else short[:3]), few and len(short) == len(values) and rows <= SAMPLED_ROWS
