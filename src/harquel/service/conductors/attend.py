"""Serves one conductor from the job to its result: hears what it tells, answers what it asks, ends what oversteps."""

from __future__ import annotations

import select
import threading
import time
from collections.abc import Sequence
from typing import Final

from harquel.core.domain.events import Watcher
from harquel.core.errors import Cancelled, ComputingError

from . import messages as say
from .conductor import Conductor
from .desk import Desk
from .process import rebuilt

_POLL_MS: Final = 50
_HEARS_S: Final = 2.0
"""Seconds within which a conductor has to leave off once nobody wants the result."""
_GRACE_S: Final = 15.0
"""Seconds beyond the clock of an inquiry, after which something that does not even compute is ended."""
_LONG_S: Final = 1.0
"""Seconds of computing in one go, after which others come first."""
TOO_MUCH: Final = (
    "Working this out took more computing than one inquiry may take, so it was stopped.",
    "Put the question in other words; if it happens again, tell the operator: the log names the inquiry.",
)


class Lost(Exception):
    """The process is gone, or had to go."""


class Mistake(Exception):
    """Something in a conductor that nobody thought of."""


class Broke(Exception):
    """The job ended with an error of its own; the process is in order."""

    def __init__(self, message: say.Failed) -> None:
        super().__init__(message.message)
        self.error: Exception = Mistake(f"{message.message} in a conductor\n{message.where}")
        if message.error:
            self.error = rebuilt(message.error, message.message, message.hint, message.fault)


class Turn:
    """Computes, or waits for its turn: one more at once than there are processors, the others in turn.

    Eight at once on two processors would all be done last.
    """

    def __init__(self, turns: threading.Semaphore) -> None:
        self._turns, self._mine = turns, False

    def take(self) -> None:
        """Waits for it."""
        if not self._mine:
            self._turns.acquire()
            self._mine = True

    def give(self) -> None:
        """Lets the next one compute."""
        if self._mine:
            self._mine = False
            self._turns.release()


def attend(
    conductor: Conductor,
    desk: Desk,
    job: tuple[say.Job, Sequence[bytes | None]],
    watcher: Watcher,
    limit_s: float,
    turn: Turn,
) -> bytes:
    """Serves a conductor until its job, sent with its bodies, is done, `limit_s` seconds at most; the result as JSON.

    Raises Lost, Broke, Cancelled, ComputingError.
    """
    line, ends = conductor.line, time.monotonic() + limit_s + _GRACE_S
    stopped_at: float | None = None
    try:
        # The connection's own poll makes all that it needs for it anew each time.
        ear = select.poll()
        ear.register(line, select.POLLIN)
        turn.take()
        say.send(line, job[0], *job[1])
        since = time.monotonic()
        while True:
            if not ear.poll(_POLL_MS):
                now = time.monotonic()
                if stopped_at is None and watcher.cancelled():
                    stopped_at = now
                    say.send(line, say.Stop())
                if stopped_at is not None and now - stopped_at > _HEARS_S:
                    raise Cancelled("it was computing")
                if now > ends:
                    raise ComputingError(*TOO_MUCH, "time")
                if now - since > _LONG_S and not conductor.tired:
                    turn.give()
                    conductor.rest()
                continue
            message = say.receive_up(line)
            if isinstance(message, say.Done):
                turn.give()
                return say.receive_body(line)
            if isinstance(message, say.Failed):
                if not message.error and message.message == "MemoryError":
                    # What is left of such a process is not to be relied on.
                    raise ComputingError(*TOO_MUCH, "memory")
                raise Broke(message)
            if isinstance(message, say.Steps):
                for step in message.told:
                    desk.record(step)
                continue
            turn.give()
            reply = desk.answer(message)
            if not conductor.tired:
                turn.take()
            say.send(line, *reply)
            since = time.monotonic()
    except (EOFError, OSError) as error:
        raise Lost from error
    finally:
        turn.give()
