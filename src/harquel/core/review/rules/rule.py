"""A rule of review as a value: what it finds, by which codes, what it needs, and its reason with two examples.

Docs, tests and the order of review are made from these; see rules/__init__.py.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext

Needs = Literal["question", "statement"]


@dataclass(frozen=True)
class Rule:
    """Called with a context it gives its findings, each under one of `codes`."""

    find: Callable[[ReviewContext], list[Finding]]
    codes: tuple[str, ...]
    needs: Needs
    """`statement`: it can say something where the question cannot be read."""

    def __call__(self, context: ReviewContext) -> list[Finding]:
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


def rule(*codes: str, needs: Needs = "question") -> Callable[[Callable[[ReviewContext], list[Finding]]], Rule]:
    """Makes a rule of a function."""
    return lambda find: Rule(find, codes, needs)
