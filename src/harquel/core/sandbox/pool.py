"""The workers of one source: warm, bounded in number, replaced when they misbehave."""

from __future__ import annotations

import queue
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, replace
from typing import Any, Final

from harquel.core.domain.policy import Limits
from harquel.core.domain.statements import RuledStatement, SeenThrough
from harquel.core.engines.base import Engine
from harquel.core.errors import Cancelled, CoreError, SandboxError
from harquel.core.sandbox.runner import Op, StatementRunner, never
from harquel.core.sandbox.worker import Worker

_POLL_S: Final = 0.05
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
    """Runs ruled statements on one source, at most `size` at once, with one warm spare beyond that.

    Workers are started from one thread that lives as long as the sandbox: the kernel ends a worker
    when the thread that started it ends, so a crash of ours leaves none behind.
    """

    def __init__(self, engine: Engine, limits: SandboxLimits, size: int = 2) -> None:
        super().__init__(engine.name)
        self.engine, self.limits = engine, limits
        self._slots = threading.Semaphore(size)
        self._idle: queue.SimpleQueue[Worker] = queue.SimpleQueue()
        self._orders: queue.SimpleQueue[Future[Worker] | None] = queue.SimpleQueue()
        self._all: set[Worker] = set()
        self._lock = threading.Lock()
        self._closed = self._still = False
        self._starter = threading.Thread(target=self._start_workers, name="sandbox-starter", daemon=True)
        self._starter.start()
        for _ in range(size + 1):
            self._order_spare()

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
        self._closed = True
        self._orders.put(None)
        self._starter.join(timeout=30)
        with self._lock:
            workers, self._all = self._all, set()
        for worker in workers:
            worker.kill()

    def ask(self, op: Op, statement: RuledStatement, stopped: Callable[[], bool], within_s: float) -> dict[str, Any]:
        """See StatementRunner."""
        deadline = time.monotonic() + within_s

        def ended() -> bool:
            return self._still or stopped()

        while not self._slots.acquire(timeout=_POLL_S):
            if ended():
                self._say_if_still()
                raise Cancelled("stopped while waiting for a free worker")
            if time.monotonic() > deadline:
                raise SandboxError("no worker became free in time", "time", "Ask again in a moment.")
        seconds = min(self.limits.seconds, max(0.1, deadline - time.monotonic()))
        through = statement.seen_through
        request = {
            "op": op, "sql": through.sql if through else statement.sql, "seconds": seconds,
            "reads": {t: sorted(c) for t, c in statement.reads.items()},
            "max_rows": min(statement.rows, self.limits.rows), "max_bytes": self.limits.bytes,
            "in_part": {"mark": through.mark, "tables": through.tables, "views": through.views} if through else None,
            **self.engine.address(),
        }  # fmt: skip
        try:
            self._say_if_still()
            try:
                return self._ask_worker(self._take(deadline, ended), request, ended)
            except SandboxError as error:
                if error.fault != "worker":
                    raise
            # A worker that died by itself while it was waiting says nothing about the statement; the
            # others may be dying too, so that the second try goes to a new one.
            return self._ask_worker(self._new_worker(deadline, ended), request, ended)
        except Cancelled:
            self._say_if_still()
            raise
        finally:
            self._slots.release()

    # -- inside ----------------------------------------------------------------------------------

    def _say_if_still(self) -> None:
        if self._still:
            raise SandboxError("everything stands still until an administrator takes that back", "still")

    def _ask_worker(self, worker: Worker, request: dict[str, Any], stopped: Callable[[], bool]) -> dict[str, Any]:
        try:
            reply = worker.ask(request, request["seconds"], request["max_bytes"], stopped)
        except BaseException:
            self._retire(worker)
            raise
        # After a shortage of memory a process is no longer to be relied on.
        if reply["ok"] or reply["fault"] != "memory":
            self._idle.put(worker)
        else:
            self._retire(worker)
        if not reply["ok"]:
            raise SandboxError(reply["message"], reply["fault"])
        return reply

    def _take(self, deadline: float, ended: Callable[[], bool]) -> Worker:
        while True:
            try:
                worker = self._idle.get_nowait()
            except queue.Empty:
                break
            if worker.alive():
                return worker
            self._retire(worker)
        return self._new_worker(deadline, ended)

    def _new_worker(self, deadline: float, ended: Callable[[], bool]) -> Worker:
        """One that is started for this; on a busy machine that may take long, but not longer than anybody waits."""
        if self._closed:
            raise SandboxError("the sandbox is closed", "worker")
        ordered: Future[Worker] = Future()
        self._orders.put(ordered)
        deadline = min(deadline, time.monotonic() + _START_S)
        while True:
            try:
                return ordered.result(timeout=_POLL_S)
            except TimeoutError:
                if not ended() and time.monotonic() < deadline:
                    continue
            # Whoever comes next takes it.
            ordered.add_done_callback(self._spare)
            if ended():
                raise Cancelled("stopped while waiting for a worker")
            raise SandboxError("no worker could be started in time", "time", "Ask again in a moment.")

    def _spare(self, ordered: Future[Worker]) -> None:
        if ordered.exception() is None:
            self._idle.put(ordered.result())

    def _retire(self, worker: Worker) -> None:
        with self._lock:
            self._all.discard(worker)
        worker.kill()
        if not self._closed:
            self._order_spare()

    def _order_spare(self) -> None:
        ordered: Future[Worker] = Future()
        ordered.add_done_callback(self._spare)
        self._orders.put(ordered)

    def _start_workers(self) -> None:
        while (ordered := self._orders.get()) is not None:
            if self._closed:
                # Nobody waits for the spares that were still in line.
                ordered.set_exception(SandboxError("the sandbox is closed", "worker"))
                continue
            try:
                worker = Worker(self.engine.worker, self.limits.memory_bytes, stoppable=self.engine.stoppable)
            except OSError as error:
                ordered.set_exception(SandboxError(f"no worker could be started: {error}", "worker"))
                continue
            try:
                worker.wait_ready()
            except CoreError as error:
                worker.kill()
                ordered.set_exception(error)
                continue
            with self._lock:
                self._all.add(worker)
            ordered.set_result(worker)
