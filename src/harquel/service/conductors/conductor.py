"""One process that computes: how it is made, whether it lives, how it ends."""

from __future__ import annotations

import os
import signal
from contextlib import suppress
from multiprocessing import Pipe

from .desk import Shelf
from .nursery import Nursery


class Conductor:
    """Ours as long as it lives; lent to one job at a time."""

    def __init__(self, nursery: Nursery) -> None:
        """Raises NurseryLost."""
        self.nursery = nursery
        self.line, theirs = Pipe()
        self.shelf = Shelf()
        self.idle_since = 0.0
        self.tired = False
        """Whether it was put behind others, which cannot be taken back."""
        try:
            with theirs:
                self.pid = nursery.new(theirs)
            # By number it could be another process by the time that it is ended.
            self._handle = os.pidfd_open(self.pid)
        except OSError:
            self.line.close()
            raise

    def alive(self) -> bool:
        """Of one that has nothing to do: it says nothing unasked, so that its end is all there can be to hear."""
        return not self.line.poll()

    def rest(self) -> None:
        """Others come first from now on."""
        self.tired = True
        with suppress(OSError):
            os.setpriority(os.PRIO_PROCESS, self.pid, 15)

    def end(self, lost: bool) -> int | None:
        """Ends it and waits until it is gone; how it had ended, if it was lost."""
        if not lost:
            with suppress(ProcessLookupError):
                signal.pidfd_send_signal(self._handle, signal.SIGKILL)
        code = self.nursery.ended(self.pid)
        with suppress(ProcessLookupError):
            signal.pidfd_send_signal(self._handle, signal.SIGKILL)
        os.close(self._handle)
        self.line.close()
        return code
