"""Where the time of an inquiry goes, and how much is left."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field


@dataclass
class Phases:
    """Where the time goes, in milliseconds per phase."""

    deadline: float
    spent: dict[str, float] = field(default_factory=dict)
    _within: float = 0.0

    @contextmanager
    def phase(self, name: str) -> Iterator[None]:
        """Adds what the block takes to the phase; what a phase within it takes is that one's alone."""
        started, outside = time.perf_counter(), self._within
        self._within = 0.0
        try:
            yield
        finally:
            took = (time.perf_counter() - started) * 1000
            self.spent[name] = self.spent.get(name, 0.0) + took - self._within
            self._within = outside + took

    def left(self) -> float:
        """Seconds until the inquiry's own limit."""
        return self.deadline - time.monotonic()
