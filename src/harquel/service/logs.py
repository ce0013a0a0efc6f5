"""Logging: one line an event, for people on a terminal and as JSON elsewhere."""

from __future__ import annotations

import logging
import sys
import threading
import time
from typing import Any

import structlog

from harquel.service.masking import mask_event


class Steady:
    """A stream that does not break whoever writes to it: on a full disk, lines are lost, and counted."""

    def __init__(self, stream: Any) -> None:
        self._stream, self._lost, self._lock = stream, 0, threading.Lock()

    def write(self, text: str) -> int:
        """Says how many were lost as soon as something can be written again."""
        with self._lock:
            try:
                if self._lost:
                    self._stream.write(f"{self._lost} pieces of this log could not be written.\n")
                    self._stream.flush()
                    self._lost = 0
                self._stream.write(text)
                self._stream.flush()
            except OSError:
                self._lost += 1
        return len(text)

    def flush(self) -> None:
        """Each piece is written at once."""


class Seldom:
    """Once in a while, with how often it was not said: what anybody can cause does not fill a log."""

    def __init__(self, every_s: float) -> None:
        self._every_s, self._lock = every_s, threading.Lock()
        self._said_at, self._unsaid = float("-inf"), 0

    def due(self) -> int | None:
        """How often it was not said since it last was, where it is time to say it."""
        with self._lock:
            now = time.monotonic()
            if now - self._said_at < self._every_s:
                self._unsaid += 1
                return None
            self._said_at, unsaid, self._unsaid = now, self._unsaid, 0
            return unsaid


def configure() -> None:
    """Sets up structlog and sends what libraries log the same way."""
    steady: Any = Steady(sys.stderr)
    on_terminal = sys.stderr.isatty()
    shared: list[structlog.typing.Processor] = [
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    renderer = structlog.dev.ConsoleRenderer() if on_terminal else structlog.processors.JSONRenderer()
    structlog.configure(
        processors=[*shared, structlog.processors.format_exc_info, mask_event, renderer],
        logger_factory=structlog.PrintLoggerFactory(steady),
        wrapper_class=structlog.make_filtering_bound_logger(logging.INFO),
    )
    logging.basicConfig(level=logging.WARNING, stream=steady, format="%(levelname)s %(name)s %(message)s")
    # What is wrong with a request is told to whoever sent it; anybody could fill a disk with that.
    logging.getLogger("django.request").setLevel(logging.ERROR)
