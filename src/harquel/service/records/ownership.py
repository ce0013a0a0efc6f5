"""One service to a data directory; its records brought up to date under that lock."""

from __future__ import annotations

import fcntl
import os
import shutil
import sqlite3
from contextlib import suppress
from pathlib import Path
from typing import IO

from harquel.core.errors import ConfigurationError


class AlreadyRunning(ConfigurationError):
    """Another process works on the same data directory."""


class Ownership:
    """An exclusive lock on a data directory, held until `release()` or the end of the process."""

    def __init__(self, data_dir: Path) -> None:
        """Raises ConfigurationError when another process holds it or the place cannot be written."""
        try:
            data_dir.mkdir(parents=True, exist_ok=True)
            data_dir.chmod(0o700)
            self._file: IO[str] = (data_dir / "lock").open("a+")
        except OSError as error:
            raise ConfigurationError(
                f"The data directory {data_dir} cannot be used: {error.strerror}.",
                "Check service.data_dir and its owner.",
            ) from error
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            self._file.seek(0)
            pid = self._file.read().strip() or "unknown"
            self._file.close()
            raise AlreadyRunning(
                f"Another service (process {pid}) already works on {data_dir}.",
                "Stop it first, or give this one a data_dir of its own.",
            ) from error
        self._file.truncate(0)
        self._file.write(str(os.getpid()))
        self._file.flush()

    def release(self) -> None:
        """Lets another process in."""
        self._file.close()


def bring_up_to_date(records: Path) -> None:
    """Copies the records, then applies migrations. Raises ConfigurationError for records from the future."""
    from django.core.management import call_command
    from django.db import connection
    from django.db.migrations.executor import MigrationExecutor

    executor = MigrationExecutor(connection)
    unknown = set(executor.loader.applied_migrations) - set(executor.loader.disk_migrations)
    ours = {"access", "ledger", "inquiries", "sources"}
    newer = sorted(f"{app}.{name}" for app, name in unknown if app in ours)
    if newer:
        raise ConfigurationError(
            f"The records come from a newer Harquel ({', '.join(newer)}).", "Install that version or a later one."
        )
    if executor.migration_plan(executor.loader.graph.leaf_nodes()):
        if records.exists() and executor.loader.applied_migrations:
            _copy(records, records.with_suffix(".before-upgrade.db"))
        call_command("migrate", verbosity=0, interactive=False)
    connection.close()


def _copy(records: Path, target: Path) -> None:
    draft = target.with_suffix(".part")
    with suppress(FileNotFoundError):
        draft.unlink()
    source, copy = sqlite3.connect(records), sqlite3.connect(draft)
    try:
        source.backup(copy)
    finally:
        source.close()
        copy.close()
    shutil.move(draft, target)
