"""How often somebody may try to sign in and fail: whoever guesses is made to wait."""

from __future__ import annotations

import threading
import time
from collections import OrderedDict, deque
from typing import Final

MOST_FAILURES: Final = 10
WITHIN_S: Final = 60.0
_MOST_ADDRESSES: Final = 10_000


class Throttle:
    """Counts failures by address, in memory; a start of the service forgets them."""

    def __init__(self) -> None:
        self._failed: OrderedDict[str, deque[float]] = OrderedDict()
        self._lock = threading.Lock()

    def wait_s(self, address: str) -> int:
        """Seconds until this address may try again; 0 for now."""
        with self._lock:
            times = self._failed.get(address)
            if times is None or len(times) < MOST_FAILURES:
                return 0
            return max(0, round(times[0] + WITHIN_S - time.monotonic() + 0.5))

    def failed(self, address: str) -> None:
        """Notes a failure; of many addresses the oldest are forgotten."""
        with self._lock:
            self._failed.setdefault(address, deque(maxlen=MOST_FAILURES)).append(time.monotonic())
            self._failed.move_to_end(address)
            while len(self._failed) > _MOST_ADDRESSES:
                self._failed.popitem(last=False)
