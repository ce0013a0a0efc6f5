"""The workers of one source: warm, bounded in number, replaced when they misbehave."""

from __future__ import annotations

import queue
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, replace
from typing import Any, Final, Literal

from harquel.core.calendar import USUAL
from harquel.core.domain.policy import Limits
from harquel.core.domain.statements import RuledStatement, SeenThrough
from harquel.core.engines.base import Engine
from harquel.core.errors import Cancelled, CoreError, SandboxError
from harquel.core.sandbox.runner import Op, StatementRunner, never
from harquel.core.sandbox.worker import Worker

_POLL_S: Final = 0.05
_MOST_ROW: Final = 4_000_000
"""Bytes of a row that is handed on; see workers/frame.py."""
_START_S: Final = 30.0
"""Longest wait for the process of a worker."""


@dataclass(frozen=True)
class SandboxLimits:
    """What one statement may take; memory is fixed when a worker starts."""

    seconds: float
    rows: int
    bytes: int
    memory_bytes: int

    @classmethod
    def of(cls, limits: Limits) -> SandboxLimits:
        """From a policy."""
        return cls(limits.query_s, limits.rows, limits.bytes, limits.memory_mb * 1024 * 1024)


class Sandbox(StatementRunner):
    """Runs ruled statements on one source, at most `size` at once.

    Of a source that nobody asks one worker waits; whenever the last one is taken another is started, up to one more
    than `size`, so that there is a warm one for whoever comes next.

    Workers are started from one thread that lives as long as the sandbox: the kernel ends a worker
    when the thread that started it ends, so a crash of ours leaves none behind.
    """

    def __init__(self, engine: Engine, limits: SandboxLimits, size: int = 2) -> None:
        super().__init__(engine.name)
        self.engine, self.limits = engine, limits
        self.calendar = USUAL
        """By which the database is to make local times of UTC, where a statement asks it to."""
        self._slots, self._most = threading.Semaphore(size), size + 1
        # Of its own, so that nobody who asks waits for it.
        self._delivering = threading.Semaphore(1)
        self._spare: list[Future[Worker]] = []
        """Those that nobody uses, and those that are being started for whoever comes next."""
        self._coming = 0
        """Ordered, and not yet started."""
        self._orders: queue.SimpleQueue[Future[Worker] | None] = queue.SimpleQueue()
        self._all: set[Worker] = set()
        self._lock = threading.Lock()
        self._closed = self._still = False
        self._starter = threading.Thread(target=self._start_workers, name="sandbox-starter", daemon=True)
        self._starter.start()
        self._keep_one_ready()

    def test_door(
        self, sql: str, reads: dict[str, frozenset[str]], seen_through: SeenThrough | None = None
    ) -> dict[str, Any]:
        """Hands raw text to a worker, past the guard. Only tests of the sandbox's own defences use it."""
        through = replace(seen_through, sql=sql) if seen_through is not None else None
        return self.ask("run", RuledStatement(sql, reads, self.limits.rows, through), never, 3600)

    def pids(self) -> list[int]:
        """Process ids of all workers."""
        with self._lock:
            return [w.pid for w in self._all]

    def stand_still(self, on: bool) -> None:
        """Stops what runs, at the server too, and lets nothing start; or takes that back."""
        self._still = on

    def close(self) -> None:
        """Ends every worker."""
        with self._lock:
            self._closed = True
            self._orders.put(None)
        self._starter.join(timeout=30)
        with self._lock:
            workers, self._all = self._all, set()
        for worker in workers:
            worker.kill()

    def ask(self, op: Op, statement: RuledStatement, stopped: Callable[[], bool], within_s: float) -> dict[str, Any]:
        """See StatementRunner."""
        bounds = replace(self.limits, rows=min(statement.rows, self.limits.rows))
        return self._asked(op, statement, bounds, stopped, within_s, None)

    def deliver(
        self, statement: RuledStatement, bounds: SandboxLimits, sink: Callable[[bytes], None],
        stopped: Callable[[], bool], within_s: float,
    ) -> dict[str, Any]:  # fmt: skip
        """Runs a statement within bounds of its own; all rows go to `sink` as they come, a JSON array on each line.

        The reply says what they were. One at a time; those who ask have the other workers. Raises SandboxError, what
        `sink` raises of that kind too, or Cancelled.
        """
        written = 0

        def take(lines: bytes) -> None:
            nonlocal written
            written += len(lines)
            # As of any reply: beyond that the worker is not keeping to its limits.
            if written > bounds.bytes * 7 + bounds.rows * 4 + 1_000_000:
                raise SandboxError("the worker sent more than it may", "memory")
            sink(lines)

        bounds = replace(bounds, rows=min(statement.rows, bounds.rows))
        return self._asked("deliver", statement, bounds, stopped, within_s, take)

    def _asked(
        self, op: Op | Literal["deliver"], statement: RuledStatement, bounds: SandboxLimits,
        stopped: Callable[[], bool], within_s: float, each: Callable[[bytes], None] | None,
    ) -> dict[str, Any]:  # fmt: skip
        deadline = time.monotonic() + within_s
        slots = self._slots if each is None else self._delivering

        def ended() -> bool:
            return self._still or stopped()

        while not slots.acquire(timeout=_POLL_S):
            if ended():
                self._say_if_still()
                raise Cancelled("stopped while waiting for a free worker")
            if time.monotonic() > deadline:
                raise SandboxError("no worker became free in time", "time", "Ask again in a moment.")
        seconds = min(bounds.seconds, max(0.1, deadline - time.monotonic()))
        through = statement.seen_through
        request = {
            "op": op, "sql": through.sql if through else statement.sql, "seconds": seconds,
            "reads": {t: sorted(c) for t, c in statement.reads.items()},
            "max_rows": bounds.rows, "max_bytes": bounds.bytes,
            "zone": self.calendar.zone, "offsets": self.calendar.offsets,
            "in_part": {"mark": through.mark, "tables": through.tables, "views": through.views} if through else None,
            **self.engine.address(),
        }  # fmt: skip
        try:
            self._say_if_still()
            try:
                return self._ask_worker(self._take(deadline, ended), request, ended, each)
            except SandboxError as error:
                # What was handed on already must not come twice.
                if error.fault != "worker" or each is not None:
                    raise
            # A worker that died by itself while it was waiting says nothing about the statement; the
            # others may be dying too, so that the second try goes to a new one.
            return self._ask_worker(self._new_worker(deadline, ended), request, ended, None)
        except Cancelled:
            self._say_if_still()
            raise
        finally:
            slots.release()

    # -- inside ----------------------------------------------------------------------------------

    def _say_if_still(self) -> None:
        if self._still:
            raise SandboxError("everything stands still until an administrator takes that back", "still")

    def _ask_worker(
        self, worker: Worker, request: dict[str, Any], stopped: Callable[[], bool],
        each: Callable[[bytes], None] | None,
    ) -> dict[str, Any]:  # fmt: skip
        most = request["max_bytes"] if each is None else min(request["max_bytes"], _MOST_ROW)
        try:
            reply = worker.ask(request, request["seconds"], most, stopped, each)
        except BaseException:
            self._retire(worker)
            raise
        # After a shortage of memory a process is no longer to be relied on.
        if reply["ok"] or reply["fault"] != "memory":
            ready: Future[Worker] = Future()
            ready.set_result(worker)
            self._put_by(ready)
        else:
            self._retire(worker)
        if not reply["ok"]:
            raise SandboxError(reply["message"], reply["fault"])
        return reply

    def _take(self, deadline: float, ended: Callable[[], bool]) -> Worker:
        while True:
            with self._lock:
                # One that could not be started is nobody's: whoever needs one orders anew, and hears why not.
                self._spare = [s for s in self._spare if not (s.done() and s.exception())]
                ready = next((s for s in self._spare if s.done()), self._spare[0] if self._spare else None)
                if ready is not None:
                    self._spare.remove(ready)
            self._keep_one_ready()
            if ready is None:
                return self._new_worker(deadline, ended)
            worker = self._awaited(ready, deadline, ended)
            if worker.alive():
                return worker
            self._retire(worker)

    def _new_worker(self, deadline: float, ended: Callable[[], bool]) -> Worker:
        """One that is started for this."""
        return self._awaited(self._ordered(), deadline, ended)

    def _awaited(self, coming: Future[Worker], deadline: float, ended: Callable[[], bool]) -> Worker:
        """On a busy machine a start may take long, but nobody waits longer than for the statement."""
        deadline = min(deadline, time.monotonic() + _START_S)
        while True:
            try:
                return coming.result(timeout=_POLL_S)
            except TimeoutError:
                if not ended() and time.monotonic() < deadline:
                    continue
            # Whoever comes next takes it.
            self._put_by(coming)
            if ended():
                raise Cancelled("stopped while waiting for a worker")
            raise SandboxError("no worker could be started in time", "time", "Ask again in a moment.")

    def _put_by(self, spare: Future[Worker]) -> None:
        with self._lock:
            self._spare.append(spare)

    def _retire(self, worker: Worker) -> None:
        with self._lock:
            self._all.discard(worker)
        worker.kill()
        self._keep_one_ready()

    def _keep_one_ready(self) -> None:
        with self._lock:
            if self._closed or self._spare or len(self._all) + self._coming >= self._most:
                return
            self._spare.append(self._ordered_locked())

    def _ordered(self) -> Future[Worker]:
        with self._lock:
            return self._ordered_locked()

    def _ordered_locked(self) -> Future[Worker]:
        ordered: Future[Worker] = Future()
        if self._closed:
            ordered.set_exception(SandboxError("the sandbox is closed", "worker"))
            return ordered
        self._coming += 1
        self._orders.put(ordered)
        return ordered

    def _start_workers(self) -> None:
        while (ordered := self._orders.get()) is not None:
            try:
                worker = self._started()
            except CoreError as error:
                with self._lock:
                    self._coming -= 1
                ordered.set_exception(error)
                continue
            with self._lock:
                self._coming -= 1
                self._all.add(worker)
            ordered.set_result(worker)

    def _started(self) -> Worker:
        if self._closed:
            # Nobody waits for those that were still in line.
            raise SandboxError("the sandbox is closed", "worker")
        try:
            worker = Worker(self.engine.worker, self.limits.memory_bytes, stoppable=self.engine.stoppable)
        except OSError as error:
            raise SandboxError(f"no worker could be started: {error}", "worker") from error
        try:
            worker.wait_ready()
        except CoreError:
            worker.kill()
            raise
        return worker
