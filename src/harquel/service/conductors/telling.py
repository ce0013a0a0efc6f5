"""How a conductor tells its steps: several in one frame, none later than a few milliseconds after it was taken.

A frame wakes the service; one for each of twenty steps cost both sides more than most of the steps. What was told
before something is asked for, or before the end, is always sent before that.
"""

from __future__ import annotations

import signal
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from multiprocessing.connection import Connection
from types import FrameType
from typing import Final

from . import messages as say

_KEPT_S: Final = 0.02
"""Longest time that a step waits for others, whatever is computed meanwhile."""
_MOST: Final = 16


class Telling:
    """The steps of one process, which has a single thread."""

    def __init__(self, line: Connection) -> None:
        self._line = line
        self._kept: list[say.Told] = []
        self._busy = False
        """Something is being sent, which nothing may come into the middle of."""
        signal.signal(signal.SIGALRM, self._due)

    def tell(self, step: say.Told, at_once: bool) -> None:
        """Keeps a step for others to go with it, or sends it with all that was kept. Raises OSError."""
        with self._undisturbed():
            self._kept.append(step)
            first, full = len(self._kept) == 1, len(self._kept) >= _MOST
        if at_once or full:
            self.send_all()
        elif first:
            signal.setitimer(signal.ITIMER_REAL, _KEPT_S)

    def send_all(self) -> None:
        """All that was told so far. Raises OSError when the service is gone."""
        with self._undisturbed():
            if self._kept:
                kept, self._kept = self._kept, []
                say.send(self._line, say.Steps(told=tuple(kept)))

    @contextmanager
    def _undisturbed(self) -> Iterator[None]:
        busy, self._busy = self._busy, True
        try:
            yield
        finally:
            self._busy = busy

    def _due(self, _: int, __: FrameType | None) -> None:
        if self._busy:
            signal.setitimer(signal.ITIMER_REAL, _KEPT_S)
        else:
            # Whether the service is gone is for the next word to find out, not for whatever is computed here.
            with suppress(OSError):
                self.send_all()
