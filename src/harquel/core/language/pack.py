"""What is known of one language."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Pack:
    """Words in small letters. `light` ones ask for nothing by themselves: who reads a question need not account for
    them. `denials` turn something around, and always ask for something.
    """

    code: str
    commonest: frozenset[str]
    """By which a text is told to be in this language."""
    light: frozenset[str]
    denials: frozenset[str]


def words(text: str) -> frozenset[str]:
    """Those of a text, in the form in which they are compared."""
    return frozenset(text.casefold().split())
