"""What an answer stands on, in words."""

from __future__ import annotations

from .base import Shape


class CitedMeasure(Shape):
    """An agreed definition that the figure rests on."""

    name: str
    """What it is called."""
    text: str = ""
    """What it says, in words."""
    owner: str = ""
    """Who answers for it."""
    version: int = 1
    """Its version."""


class ReadLine(Shape):
    """A line of what a statement does, in words: what kind of part it is, and what it says."""

    label: str
    """What kind of part it is, in the asker's language: Counted, Only, Per."""
    text: str
    """What it says."""
