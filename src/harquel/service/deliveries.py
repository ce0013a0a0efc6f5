"""Files with whole results: written beside the records, one for an inquiry, deleted when their time is over.

A row is a JSON array on a line (JSON Lines), in the values of the contract. A file has its name once it is whole; the
time of its last change is the one at which it is to be deleted, so that this needs no records.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import json
import os
import shutil
import threading
import time
import weakref
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any, Final

from harquel.core.domain.delivery import Delivered
from harquel.core.domain.statements import RuledStatement
from harquel.core.errors import Cancelled, SandboxError
from harquel.core.inquiry.source import Source
from harquel.core.language.say import said_as
from harquel.core.sandbox import Sandbox, SandboxLimits

AT_ONCE: Final = 2
"""Files that are written at the same time; each has a connection to a database, and a worker."""
LEFT_FREE: Final = 256 * 1024 * 1024
"""Bytes that stay free on the disk, for the records."""
MOST_OPEN: Final = 16
"""Files that are being fetched at the same time."""
_SAMPLE_ROWS: Final = 20
_SAMPLE_BYTES: Final = 200_000
_POLL_S: Final = 0.1
_LOOK_EVERY: Final = 8 * 1024 * 1024
"""Bytes after which the disk is looked at again."""


class TooManyOpen(Exception):
    """As many files as may be are being fetched."""


class _Fetched(Iterator[bytes]):
    """Lines of a file that is closed at its end, or once nobody wants them any more."""

    def __init__(self, file: IO[bytes], places: threading.Semaphore) -> None:
        self._file = file
        self._over = weakref.finalize(self, _closed, file, places)

    def __next__(self) -> bytes:
        line = self._file.readline() if self._over.alive else b""
        if not line:
            self._over()
            raise StopIteration
        return line


def _closed(file: IO[bytes], places: threading.Semaphore) -> None:
    file.close()
    places.release()


@dataclass
class _Writing:
    """A file that is being written."""

    file: IO[bytes]
    room: Callable[[int], str]
    """Why no more of so many bytes may be written; empty where they may."""
    digest: Any = field(default_factory=hashlib.sha256)
    rows: int = 0
    size: int = 0
    sample: list[list[Any]] = field(default_factory=list)
    looked_at: int = -_LOOK_EVERY

    def take(self, lines: bytes) -> None:
        """Raises SandboxError where they cannot be written away."""
        if self.size - self.looked_at >= _LOOK_EVERY:
            self.looked_at = self.size
            why = self.room(_LOOK_EVERY + len(lines))
            if why:
                raise SandboxError(why, "store")
        if not self.rows:
            self.sample = _first(lines)
        try:
            self.file.write(lines)
        except OSError as error:
            raise SandboxError(str(error.strerror or error), "store") from error
        self.digest.update(lines)
        self.rows += lines.count(b"\n")
        self.size += len(lines)


class Deliveries:
    """The files of one data directory. For use by many threads."""

    def __init__(self, data_dir: Path, most_bytes: int) -> None:
        """`most_bytes` is what all of them together may take."""
        self._folder, self._most = data_dir / "deliveries", most_bytes
        self._places = threading.Semaphore(AT_ONCE)
        self._under_way: dict[str, _Writing] = {}
        self._open = threading.Semaphore(MOST_OPEN)

    def begin(self) -> list[str]:
        """Takes away what was never finished; the inquiries that it was for."""
        self._folder.mkdir(mode=0o700, exist_ok=True)
        unfinished = list(self._folder.glob("*.part"))
        for path in unfinished:
            path.unlink()
        return [path.stem for path in unfinished]

    def sweep(self) -> list[str]:
        """Deletes what has had its time; the inquiries that it was for."""
        now = time.time()
        over = [path for path, found in self._files() if path.suffix == ".jsonl" and found.st_mtime <= now]
        for path in over:
            path.unlink(missing_ok=True)
        return [path.stem for path in over]

    def _files(self) -> Iterator[tuple[Path, os.stat_result]]:
        """Those that are there; others may go while they are looked through."""
        for path in self._folder.iterdir():
            with suppress(FileNotFoundError):
                yield path, path.stat()

    def so_far(self, key: str) -> tuple[int, int] | None:
        """Rows and bytes that have been written for an inquiry; None where nothing is being."""
        writing = self._under_way.get(key)
        return (writing.rows, writing.size) if writing is not None else None

    def lines(self, key: str) -> Iterator[bytes] | None:
        """The rows, a line each, as long as they are kept; None when they are no more. Raises TooManyOpen."""
        path = self._folder / f"{key}.jsonl"
        try:
            file = path.open("rb")
        except OSError:
            return None
        if os.fstat(file.fileno()).st_mtime <= time.time():
            file.close()
            return None
        # Somebody who reads a line an hour keeps a file open, and no more than so many do.
        if not self._open.acquire(blocking=False):
            file.close()
            raise TooManyOpen
        return _Fetched(file, self._open)

    def write(
        self, key: str, source: Source, statement: RuledStatement, stopped: Callable[[], bool], within_s: float
    ) -> Delivered:
        """Runs a statement and writes its rows, within what the policy of the source says of deliveries.

        Raises SandboxError, Cancelled; nothing is left of the file then.
        """
        given, sandbox = source.policy.delivery, source.sandbox
        if given is None or not isinstance(sandbox, Sandbox):
            raise SandboxError("no whole results are handed over from this source", "denied")
        limits = source.policy.limits
        bounds = SandboxLimits(given.query_s, given.rows, given.bytes, limits.memory_mb * 1024 * 1024)
        ends = time.monotonic() + within_s
        while not self._places.acquire(timeout=_POLL_S):
            if stopped():
                raise Cancelled("stopped while other files were being written")
            if time.monotonic() > ends:
                raise SandboxError("other files were being written all the time", "time", "Try again later.")
        part = self._folder / f"{key}.part"
        try:
            return self._written(key, part, sandbox, statement, bounds, given.kept_h, stopped, ends)
        finally:
            self._under_way.pop(key, None)
            part.unlink(missing_ok=True)
            self._places.release()

    def _written(
        self, key: str, part: Path, sandbox: Sandbox, statement: RuledStatement, bounds: SandboxLimits, kept_h: float,
        stopped: Callable[[], bool], ends: float,
    ) -> Delivered:  # fmt: skip
        try:
            file = os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb")
        except OSError as error:
            raise SandboxError(str(error.strerror or error), "store") from error
        with file:
            writing = self._under_way[key] = _Writing(file, self._why_no_room)
            reply = sandbox.deliver(statement, bounds, writing.take, stopped, ends - time.monotonic())
            if reply["count"] != writing.rows:
                raise SandboxError("the worker counted other rows than it sent", "worker")
            try:
                file.flush()
                os.fsync(file.fileno())
            except OSError as error:
                raise SandboxError(str(error.strerror or error), "store") from error
        until = dt.datetime.now(dt.UTC).replace(microsecond=0) + dt.timedelta(hours=kept_h)
        os.utime(part, (until.timestamp(), until.timestamp()))
        part.rename(part.with_suffix(".jsonl"))
        return Delivered(
            tuple(reply["columns"]), tuple(reply["types"]), writing.sample, writing.rows, reply["bytes"],
            reply["cut_by"], writing.digest.hexdigest(), reply["elapsed_ms"], until,
        )  # fmt: skip

    def _why_no_room(self, more: int) -> str:
        taken = sum(found.st_size for _, found in self._files())
        if taken + more > self._most:
            return said_as("no-room-of-ours", taken=f"{taken / 1e6:,.0f}", most=f"{self._most / 1e6:,.0f}")
        free = shutil.disk_usage(self._folder).free
        return said_as("no-room-on-disk", free=f"{free / 1e6:,.0f}") if free - more < LEFT_FREE else ""


def _first(lines: bytes) -> list[list[Any]]:
    """The first rows, as many as are quickly read."""
    found, taken = [], 0
    for line in lines.split(b"\n", _SAMPLE_ROWS)[:_SAMPLE_ROWS]:
        taken += len(line)
        if not line or taken > _SAMPLE_BYTES:
            break
        found.append(json.loads(line))
    return found
