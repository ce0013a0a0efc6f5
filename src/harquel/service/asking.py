"""The threads that work on inquiries, behind a queue with an end: beyond it the caller is told to wait."""

from __future__ import annotations

import queue
import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

import structlog

log = structlog.get_logger("harquel")


class Overloaded(Exception):
    """The queue is full; try again in `after_s` seconds."""

    def __init__(self, after_s: int) -> None:
        super().__init__("too many inquiries are waiting")
        self.after_s = after_s


@dataclass
class Ticket:
    """A place in the queue; `cancelled` is set when nobody wants the result any more."""

    key: str = ""
    row: int | None = None
    """Its number in the records, where that is known."""
    at_once: bool = False
    """Whether a thread is free for it, so that it need not wait in line."""
    cancelled: threading.Event = field(default_factory=threading.Event)
    taken_at: float = field(default_factory=time.monotonic)


class AskingPool:
    """`threads` inquiries at once, `waiting` more in line."""

    def __init__(self, work: Callable[[Ticket], None], threads: int, waiting: int) -> None:
        self._work, self._threads, self._most = work, threads, threads + waiting
        self._line: queue.SimpleQueue[Ticket | None] = queue.SimpleQueue()
        self._tickets: dict[str, Ticket] = {}
        self._places = 0
        self._lock = threading.Lock()
        self._took: deque[float] = deque([1.0], maxlen=50)
        self._closing = False
        self._workers = [threading.Thread(target=self._loop, name=f"asking-{n}", daemon=True) for n in range(threads)]
        for worker in self._workers:
            worker.start()

    def reserve(self) -> Ticket:
        """A place; to be followed by `enter` or `give_back`. Raises Overloaded."""
        with self._lock:
            if self._closing or self._places >= self._most:
                mean = sum(self._took) / len(self._took)
                raise Overloaded(max(1, min(60, round(mean * self._places / self._threads / 2))))
            self._places += 1
            return Ticket(at_once=self._places <= self._threads)

    def give_back(self) -> None:
        """The place is not needed after all."""
        with self._lock:
            self._places -= 1

    def enter(self, ticket: Ticket, key: str) -> None:
        """Puts the ticket for inquiry `key` in line."""
        ticket.key = key
        with self._lock:
            self._tickets[key] = ticket
        self._line.put(ticket)

    def cancel(self, key: str) -> bool:
        """Whether there was something to cancel."""
        with self._lock:
            ticket = self._tickets.get(key)
        if ticket is None:
            return False
        ticket.cancelled.set()
        return True

    def under_way(self) -> int:
        """Inquiries working or waiting."""
        with self._lock:
            return self._places

    def close(self, within_s: float) -> None:
        """Takes nothing more, waits a while for what is under way, then stops that too."""
        with self._lock:
            self._closing = True
        deadline = time.monotonic() + within_s
        while self.under_way() and time.monotonic() < deadline:
            time.sleep(0.02)
        with self._lock:
            for ticket in self._tickets.values():
                ticket.cancelled.set()
        for _ in self._workers:
            self._line.put(None)
        for worker in self._workers:
            worker.join(timeout=5)

    def _loop(self) -> None:
        while (ticket := self._line.get()) is not None:
            started = time.monotonic()
            try:
                self._work(ticket)
            except Exception:  # the thread must live on; what broke is for the operator
                log.exception("the work on an inquiry broke", inquiry=ticket.key)
            finally:
                with self._lock:
                    self._tickets.pop(ticket.key, None)
                    self._places -= 1
                    self._took.append(time.monotonic() - started)
