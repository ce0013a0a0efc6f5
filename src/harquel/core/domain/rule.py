"""A rule as a value: what it finds, by which codes, what it needs, and its reason with two examples.

The guard has some and review has some; docs and tests are made from them. Reason and examples stand at the head of the
rule's own file, where whoever reads it looks first.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

C = TypeVar("C")
F = TypeVar("F")


@dataclass(frozen=True)
class Rule(Generic[C, F]):
    """Called with a context it gives what it finds, each under one of `codes`."""

    find: Callable[[C], list[F]]
    codes: tuple[str, ...]

    def __call__(self, context: C) -> list[F]:
        """What it finds."""
        return self.find(context)

    @property
    def name(self) -> str:
        """Its name; the file bears it too."""
        return self.find.__name__

    @property
    def reason(self) -> str:
        """Why it is there, in a sentence."""
        return self._lines()[0]

    @property
    def bad(self) -> str:
        """What it finds something about; a question may stand before it."""
        return self._after("Bad:")

    @property
    def good(self) -> str:
        """What it does not."""
        return self._after("Good:")

    def _lines(self) -> list[str]:
        return (sys.modules[self.find.__module__].__doc__ or "").strip().splitlines()

    def _after(self, word: str) -> str:
        return next(line for line in self._lines() if line.startswith(word)).split(":", 1)[1].strip()
