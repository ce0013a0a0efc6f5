"""What may happen so often within a time, and no more."""

from __future__ import annotations

import threading
import time


class Seldom:
    """What may happen so often within a time, and no more."""

    def __init__(self, most: int, within_s: float) -> None:
        self._most, self._within_s = most, within_s
        self._lock = threading.Lock()
        self._happened: dict[str, list[float]] = {}

    def may(self, key: str) -> bool:
        """Whether it may once more."""
        with self._lock:
            now = time.monotonic()
            self._happened = {
                k: kept for k, times in self._happened.items()
                if (kept := [at for at in times if now - at < self._within_s])
            }  # fmt: skip
            return len(self._happened.get(key, ())) < self._most

    def happened(self, key: str) -> None:
        """It has."""
        with self._lock:
            self._happened.setdefault(key, []).append(time.monotonic())
