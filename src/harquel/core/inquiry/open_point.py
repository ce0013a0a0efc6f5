"""What a question leaves open, and the ways in which it can be meant."""

from __future__ import annotations

from dataclasses import dataclass
from functools import reduce

from harquel.core.language.say import said_as


@dataclass(frozen=True)
class Way:
    """One way to mean a question. `words` is what the question gains when it is meant so."""

    id: str
    label: str
    words: str
    question: str = ""
    """The whole question that it comes to, where that is not the one asked with `words`."""


@dataclass(frozen=True)
class OpenPoint:
    """What we ask back, and the ways to choose from."""

    question: str
    ways: tuple[Way, ...]

    def told(self) -> str:
        """For somebody who is not asked: what else it could have meant."""
        said = [w.label[:1].lower() + w.label[1:] for w in self.ways]
        ways = reduce(lambda one, other: said_as("or-else", one=one, other=other), said)
        return said_as("caveat-two-readings", n=len(said), ways=ways)
