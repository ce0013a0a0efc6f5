"""Whether the records can be written: a full disk and a read-only place are said, not run into."""

from __future__ import annotations

import shutil
import threading
import time
from pathlib import Path
from typing import Final

from django.db import DatabaseError, connection

from harquel.service.records.writer import Writer, why_not

LEAST_FREE: Final = 32 * 1024 * 1024
"""Bytes that must be left before a question is taken: what is under way has to be put on record as well."""
_FRESH_S: Final = 1.0


def short_of_space(data_dir: Path) -> str | None:
    """Why nothing more is taken, before the disk is full."""
    free = shutil.disk_usage(data_dir).free
    if free >= LEAST_FREE:
        return None
    return f"only {free / 1e6:.0f} MB are left on the disk of the data directory"


class Probe:
    """Writes something small to know; what it found out is good for a second, whoever asks."""

    def __init__(self, writer: Writer, data_dir: Path) -> None:
        self._writer, self._data_dir, self._lock = writer, data_dir, threading.Lock()
        self._looked_at, self._found = 0.0, ""

    def trouble(self) -> str:
        """What keeps the records from being written; empty where nothing does."""
        with self._lock:
            if time.monotonic() - self._looked_at > _FRESH_S:
                self._found = self._look()
                self._looked_at = time.monotonic()
            return self._found

    def _look(self) -> str:
        try:
            self._writer.do(_write_something)
        except DatabaseError as error:
            return why_not(error)
        return short_of_space(self._data_dir) or ""


def _write_something() -> None:
    """The file's own number for its user, which nothing else uses: a row with the same values would not be written."""
    with connection.cursor() as cursor:
        cursor.execute(f"PRAGMA user_version = {int(time.time()) % 2**31}")
