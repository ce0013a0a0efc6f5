"""A model that all share who have a duty for it: so many calls at once, none while it is left alone, and counted."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, Protocol

from harquel.core.errors import Cancelled, ModelError, ModelFault, ModelUnreachable
from harquel.core.language.say import said_as

from .breaker import Breaker
from .model import Completion, Message, ModelProfile, OnPiece, Shape

_POLL_S: Final = 0.05
TELLING: Final = frozenset[ModelFault]({"away", "key", "model", "quota", "nonsense"})
"""Faults of a model or its server; any other is of a question, or of the time that is left."""


class Spoken(Protocol):
    """A model that is spoken to itself: over_http.HttpModel."""

    @property
    def profile(self) -> ModelProfile:
        """Who it is."""

    def complete(
        self, messages: list[Message], *, on_piece: OnPiece | None, stopped: Callable[[], bool], within_s: float,
        shape: Shape | None, tries: int,
    ) -> Completion:  # fmt: skip
        """See HttpModel.complete."""

    def close(self) -> None:
        """Gives its connections back."""


@dataclass
class Counts:
    """Since the service started."""

    calls: int = 0
    failures: int = 0
    last_fault: str = ""


class SharedModel:
    """One model of the configuration, shared by every duty and source that names it."""

    def __init__(self, model: Spoken, at_once: int, breaker: Breaker | None = None) -> None:
        """`at_once`: calls that are under way at the same time; others wait, as long as they have time."""
        self.model, self.breaker, self.counts, self.at_once = model, breaker or Breaker(), Counts(), at_once
        self._places = threading.BoundedSemaphore(at_once)
        self._lock = threading.Lock()

    @property
    def profile(self) -> ModelProfile:
        """Who it is."""
        return self.model.profile

    def complete(
        self, messages: list[Message], *, on_piece: OnPiece | None, stopped: Callable[[], bool], within_s: float,
        shape: Shape | None, tries: int,
    ) -> Completion:  # fmt: skip
        """See HttpModel.complete. Raises ModelUnreachable at once while it is left alone."""
        me, until = object(), time.monotonic() + within_s
        self._place(stopped, until)
        try:
            if not self.breaker.enter(me):
                raise self.resting()
            try:
                left = max(0.0, until - time.monotonic())
                done = self.model.complete(
                    messages, on_piece=on_piece, stopped=stopped, within_s=left, shape=shape, tries=tries
                )
            except ModelError as error:
                self._ended(me, False if error.fault in TELLING else None, str(error))
                raise
            except BaseException:
                self.breaker.left(me, None)
                raise
            self._ended(me, True, "")
            return done
        finally:
            self._places.release()

    def resting(self) -> ModelUnreachable:
        """Why it is not called."""
        look = self.breaker.look()
        said = said_as("model-resting", name=self.profile.name, seconds=f"{look.rests_s:.0f}", times=str(look.failures))
        return ModelUnreachable(said, said_as("model-away-hint", url=self.profile.base_url, name=self.profile.name))

    def close(self) -> None:
        """Gives its connections back."""
        self.model.close()

    def _place(self, stopped: Callable[[], bool], until: float) -> None:
        while not self._places.acquire(timeout=_POLL_S):
            if stopped():
                raise Cancelled("stopped while waiting for the model")
            if time.monotonic() > until:
                raise ModelUnreachable(
                    said_as("model-crowded", name=self.profile.name), said_as("model-crowded.hint"), "late"
                )

    def _ended(self, who: object, fine: bool | None, said: str) -> None:
        self.breaker.left(who, fine)
        with self._lock:
            self.counts.calls += 1
            if fine is not True:
                self.counts.failures += 1
                self.counts.last_fault = said[:300]
