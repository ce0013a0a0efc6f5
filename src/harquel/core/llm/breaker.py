"""Who failed several times in a row is left alone for a while, then tried by one call; the longer, the more often."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, Literal

State = Literal["closed", "open", "trying"]
FAILURES: Final = 4
"""In a row, after which it opens."""
FIRST_S: Final = 15.0
LONGEST_S: Final = 300.0
"""Seconds that it stays open: twice as long each time, up to five minutes."""


@dataclass(frozen=True)
class Look:
    """How it stands. `rests_s` is how long it stays open yet."""

    state: State
    failures: int
    rests_s: float = 0.0


class Breaker:
    """Of one model, for all who call it. `clock` gives seconds that only go on."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._lock = threading.Lock()
        self._failures, self._opened = 0, 0
        self._until = 0.0
        self._tried_by: object | None = None

    def enter(self, who: object) -> bool:
        """Whether a call may be made; once its time has come, by one caller at a time."""
        with self._lock:
            if not self._opened:
                return True
            if self._clock() < self._until or self._tried_by is not None:
                return False
            self._tried_by = who
            return True

    def left(self, who: object, fine: bool | None) -> None:
        """How the call ended that entered; None: it says nothing of the model, as one that was stopped."""
        with self._lock:
            mine = self._tried_by is who
            if mine:
                self._tried_by = None
            if fine:
                self._failures, self._opened = 0, 0
            elif fine is False:
                self._failures += 1
                if mine or (not self._opened and self._failures >= FAILURES):
                    self._opened += 1
                    self._until = self._clock() + min(LONGEST_S, FIRST_S * 2.0 ** (self._opened - 1))

    def look(self) -> Look:
        """How it stands now."""
        with self._lock:
            if not self._opened:
                return Look("closed", self._failures)
            left = max(0.0, self._until - self._clock())
            return Look("open" if left > 0 else "trying", self._failures, round(left, 1))
