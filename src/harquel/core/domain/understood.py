"""How a question was understood, part by part, and what a part could have meant instead."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(kw_only=True)
class Offer:
    """What a part of how the question was understood could have meant instead."""

    id: str
    """The word to choose it by."""
    part: int
    """Which part, from 0."""
    label: str
    """What it is called."""
    question: str
    """The question that is asked when it is chosen."""


@dataclass(kw_only=True)
class UnderstoodPart:
    """One part of how a question was understood."""

    text: str
    """In a few words."""
    words: list[str] = field(default_factory=list)
    """Those of the question that it stands for, as they stand there."""
    assumed: bool = False
    """Whether it narrows the rows without a word of the question for it."""
