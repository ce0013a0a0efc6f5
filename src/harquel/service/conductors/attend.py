"""Serves one conductor from the job to its result: hears what it tells, answers what it asks, ends what oversteps."""

from __future__ import annotations

import math
import select
import threading
import time
from collections.abc import Sequence
from typing import Final

from harquel.core.domain.events import Watcher
from harquel.core.errors import Cancelled, ComputingError
from harquel.core.language.say import said_as

from . import messages as say
from .conductor import Conductor
from .desk import Desk
from .process import rebuilt

_POLL_MS: Final = 50
_HEARS_S: Final = 2.0
"""Seconds within which a conductor has to leave off once nobody wants the result."""
_GRACE_S: Final = 15.0
"""Seconds beyond the clock of an inquiry, after which something that does not even compute is ended."""
_AWAY_S: Final = 0.25
"""Seconds after which somebody who waits for a model or a database has made room for others to begin."""
_LOOK_S: Final = 0.05
_LONG_S: Final = 1.0
"""Seconds of computing in one go, after which others come first."""
TOO_MUCH: Final = (
    said_as("problem-too-much-computing"),
    said_as("problem-too-much-computing.hint"),
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


class Turns:
    """So many compute at once; who has begun comes before those who have not, and not too many are at it.

    Eight at once on two processors would all be done last. Whoever waits long for a model or a database is not at it:
    others begin meanwhile.
    """

    def __init__(self, count: int, at_it: int) -> None:
        """`count` compute at once, of `at_it` that have begun and want to."""
        self._free, self._most, self._begun = count, at_it, 0
        self._away: dict[int, float] = {}
        """Since when each that has begun waits for others; infinity while it computes, or waits for its turn."""
        self._changed = threading.Condition()

    def acquire(self, job: int, begun: bool) -> None:
        """Waits for one."""
        with self._changed:
            self._begun += begun
            if begun:
                self._away[job] = math.inf
            try:
                while not self._free or (not begun and (self._begun or self._at_it() >= self._most)):
                    self._changed.wait(None if begun else _LOOK_S)
                self._free -= 1
                self._away[job] = math.inf
            finally:
                self._begun -= begun
            if self._free:
                self._changed.notify_all()

    def release(self, job: int) -> None:
        """Lets the next one compute; the job waits for others, or has ended."""
        with self._changed:
            self._free += 1
            self._away[job] = time.monotonic()
            self._changed.notify_all()

    def over(self, job: int) -> None:
        """The job has ended."""
        with self._changed:
            self._away.pop(job, None)
            self._changed.notify_all()

    def _at_it(self) -> int:
        long_ago = time.monotonic() - _AWAY_S
        return sum(since > long_ago for since in self._away.values())


class Turn:
    """One job's: it computes, or waits. `waited_s` is how long it waited before it began, which is nobody's work."""

    def __init__(self, turns: Turns) -> None:
        self._turns, self._mine, self._begun = turns, False, False
        self.waited_s = 0.0

    def take(self) -> None:
        """Waits for it."""
        if self._mine:
            return
        started = time.monotonic()
        self._turns.acquire(id(self), self._begun)
        if not self._begun:
            self._begun, self.waited_s = True, time.monotonic() - started
        self._mine = True

    def give(self) -> None:
        """Lets the next one compute."""
        if self._mine:
            self._mine = False
            self._turns.release(id(self))

    def end(self) -> None:
        """Gives it back for good."""
        self.give()
        self._turns.over(id(self))


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
        turn.end()
