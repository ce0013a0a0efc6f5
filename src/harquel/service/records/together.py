"""What the jobs of one transaction put off to its end, so that it is written together.

Entries of the ledger come one by one and are chained one to the next; written one by one each would cost four
statements. What is put off is written before the transaction ends, and what a failed job had put off is forgotten with
it.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Protocol


class PutOff(Protocol):
    """Something that can be put off by the thread that writes. Outside of `gathering` nothing is."""

    def begin(self) -> None:
        """From now on, in this thread."""

    def mark(self) -> object:
        """Where it stands."""

    def back_to(self, mark: object) -> None:
        """As it was then: what came after is forgotten."""

    def write(self) -> None:
        """All of it, in the transaction under way."""

    def end(self) -> None:
        """Nothing is put off any more, and nothing is left of it."""


_known: list[PutOff] = []


def also(kind: PutOff) -> None:
    """Another kind of things that may be put off."""
    _known.append(kind)


@contextmanager
def gathering() -> Iterator[None]:
    """Within it things are put off; at its end, unless it ends with an error, they are written."""
    for kind in _known:
        kind.begin()
    try:
        yield
        for kind in _known:
            kind.write()
    finally:
        for kind in _known:
            kind.end()


@contextmanager
def undone_with_it() -> Iterator[None]:
    """What is put off in here is forgotten when it ends with an error."""
    marks = [(kind, kind.mark()) for kind in _known]
    try:
        yield
    except BaseException:
        for kind, mark in marks:
            kind.back_to(mark)
        raise
