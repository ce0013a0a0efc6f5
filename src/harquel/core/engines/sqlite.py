"""SQLite: a file on this machine, opened read-only."""

from __future__ import annotations

import datetime as dt
import os
import sqlite3
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import replace
from pathlib import Path
from typing import Any, Final
from urllib.parse import quote

import sqlalchemy as sa
from sqlalchemy.exc import SQLAlchemyError

from harquel.core.clock import utc_now
from harquel.core.domain.catalog import Catalog, Table, fingerprint_of
from harquel.core.domain.fresh import Written
from harquel.core.domain.policy import Policy
from harquel.core.engines.base import CheckStep
from harquel.core.engines.checking import failed, timed, warned, well
from harquel.core.engines.introspect import generic_type, read_tables
from harquel.core.engines.profiling import Sampling, count_some, few_rows, profiled, relation
from harquel.core.errors import SourceError

_CHECK_URL: Final = "Check the url of the source."
_LOOKS_S: Final = 5.0
"""How long a reader waits for a lock of the application."""


class SqliteEngine:
    """One SQLite file."""

    name = "sqlite"
    stoppable = False
    worker = Path(__file__).resolve().parent.parent / "sandbox" / "workers" / "sqlite.py"

    def __init__(self, path: Path) -> None:
        self.path = path

    def address(self) -> dict[str, Any]:
        """The file's path."""
        return {"path": str(self.path)}

    def where(self) -> str:
        """The address, as it can be typed."""
        return f"sqlite:///{self.path}"

    def close(self) -> None:
        """Nothing is kept open."""

    def _must_be_there(self) -> None:
        """Raises SourceError when the file is missing, not readable or not a SQLite database."""
        try:
            with self.path.open("rb") as file:
                head = file.read(16)
        except FileNotFoundError as error:
            raise SourceError(f"The database file {self.path} is not there.", _CHECK_URL) from error
        except OSError as error:
            raise SourceError(
                f"The database file {self.path} cannot be read ({error.strerror}).",
                "Check that it is a file and that this account may read it.",
            ) from error
        if head and head != b"SQLite format 3\x00":
            raise SourceError(f"{self.path} is not a SQLite database.", _CHECK_URL)

    def look(self) -> str:
        """The schema cookie that stands in the file's header, and which file it is."""
        self._must_be_there()
        with self.path.open("rb") as file:
            head = file.read(44)
        # In WAL mode the newest header may lie in the log; its size and time tell of a change.
        log = self.path.with_name(self.path.name + "-wal")
        try:
            state = log.stat()
            beside = f"{state.st_size}:{state.st_mtime_ns}"
        except OSError:
            beside = ""
        return f"{self.path.stat().st_ino}:{head[40:44].hex()}:{beside}"

    def written(self) -> Written | None:
        """See Engine: the time of the file or of the log beside it."""
        times = []
        for path in (self.path, self.path.with_name(self.path.name + "-wal")):
            with suppress(OSError):
                times.append(path.stat().st_mtime)
        return Written(dt.datetime.fromtimestamp(max(times), dt.UTC), "file") if times else None

    @contextmanager
    def _connection(self, deadline: float | None = None) -> Iterator[sa.Connection]:
        self._must_be_there()
        uri = f"file:{quote(str(self.path))}?mode=ro"

        def connect() -> sqlite3.Connection:
            connection = sqlite3.connect(uri, uri=True, timeout=_LOOKS_S)
            connection.text_factory = lambda raw: raw.decode("utf-8", "replace")
            connection.execute("PRAGMA query_only = ON")
            if deadline is not None:
                connection.set_progress_handler(lambda: time.monotonic() > deadline, 10_000)
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

    def structure(self) -> Catalog:
        """See Engine."""
        with self._connection() as connection:
            tables = tuple(read_tables(connection, [None], generic_type))
        return Catalog(self.name, tables, fingerprint_of(tables), utc_now(), "main")

    def profile(self, table: Table, columns: Sequence[str], seconds: float) -> Table:
        """See Engine. Views are not looked into: what they cost is not known."""
        if table.kind == "view" or table.problem:
            return table
        deadline = time.monotonic() + seconds
        with self._connection(deadline) as connection:
            try:
                few = count_some(connection, table)
                count = few
                if few is None:
                    whole = sa.select(sa.func.count()).select_from(relation(table))
                    count = connection.execute(whole).scalar()
                sampling = Sampling(few_rows(table, columns, few is not None), count, False, few is not None)
                return profiled(connection, table, columns, sampling, deadline)
            except SQLAlchemyError as error:
                return replace(table, problem=f"its values could not be looked at: {getattr(error, 'orig', error)}")

    def check(self, policy: Policy) -> Iterator[CheckStep]:
        """See Engine: file, format, what the exposed tables give, and whether the file could be written."""
        with timed("file") as step:
            try:
                self._must_be_there()
                step.result = well(f"{self.path} is a SQLite database.")
            except SourceError as error:
                step.result = failed("file", str(error), error.hint)
        yield step.made()
        if step.failed:
            return
        with timed("version") as step:
            step.result = well(f"SQLite {sqlite3.sqlite_version}, the library that reads it here.")
        yield step.made()
        with timed("tables") as step:
            step.result = self._check_tables(policy)
        yield step.made()
        with timed("writing") as step:
            if os.access(self.path, os.W_OK):
                step.result = warned(
                    "writable-file", "The account of this service could write to the file; it opens it read-only.",
                    f"Take the right away: chmod a-w {self.path}, or run the service as another user.",
                )  # fmt: skip
            else:
                step.result = well("The account of this service may only read the file.")
        yield step.made()

    def _check_tables(self, policy: Policy) -> tuple[str, str, str, str]:
        try:
            catalog = self.structure()
        except SourceError as error:
            return failed("unreadable", str(error), error.hint)
        shown = policy.visible(catalog)
        broken = [t.name for t in catalog.tables if t.problem and policy.shows(t.name, None)]
        if not catalog.tables:
            return warned("empty", "The file has no tables yet.", "See whether it is the right file.")
        if not shown.tables:
            return warned("nothing-exposed", "No table of it is exposed.", "Name tables under expose in the policy.")
        if broken:
            return warned("broken-table", f"Cannot be read: {', '.join(broken)}.", "Repair or withhold them.")
        return well(f"{len(shown.tables)} tables and views are exposed and can be read.")

    def account_script(self, policy: Policy, account: str, whole_schema: bool, known: Catalog | None = None) -> str:
        """A file has no accounts: what to do with its rights instead."""
        place = str(self.path).replace("'", "'\\''")
        return (
            "# SQLite has no accounts: what may be done with the file is what the system's rights say.\n"
            f"# As its owner, so that the account {account} may read it and not write:\n"
            f"chmod u=rw,g=r,o= '{place}'\nchgrp {account} '{place}'\n"
        )

    def grant(self, table: str) -> str:
        """There is nothing to grant inside a file."""
        return f"chmod g+r '{self.path}'"
