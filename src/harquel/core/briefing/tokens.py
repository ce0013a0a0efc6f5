"""How many tokens a text takes: an estimate from its length, corrected by what the model reports."""

from __future__ import annotations

import threading
from typing import Final

CHARS_PER_TOKEN: Final = 3.6
"""Rough size of a token in schema text, before any model has reported."""
_WEIGHT: Final = 0.2
"""How much a new report counts against those before it."""
_LEAST, _MOST = 1.0, 8.0


class TokenGauge:
    """One a model. For use by many threads."""

    def __init__(self, chars_per_token: float = CHARS_PER_TOKEN) -> None:
        self._chars_per_token = chars_per_token
        self._lock = threading.Lock()

    def estimate(self, text: str) -> int:
        """Tokens that a text takes, roughly."""
        return int(len(text) / self._chars_per_token) + 1

    def learn(self, chars: int, reported: int) -> None:
        """The model says that a prompt of so many code points took so many tokens; 0 means it did not say."""
        if reported <= 0 or chars < 200:
            return
        seen = min(_MOST, max(_LEAST, chars / reported))
        with self._lock:
            self._chars_per_token += _WEIGHT * (seen - self._chars_per_token)

    @property
    def chars_per_token(self) -> float:
        """The present estimate."""
        return self._chars_per_token
