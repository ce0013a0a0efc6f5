"""How a question was understood, part by part, and what a part could have meant instead."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True, kw_only=True)
class Lasting:
    """What of an offer can be written into the notes, so that it holds for everybody: a word for a code, or the column
    that dates the rows of a table.
    """

    table: str
    """Of which table."""
    column: str
    """The column that holds the code, or that dates the rows."""
    word: str = ""
    """What people say; empty where it is about a time."""
    code: str = ""
    """What is stored for that."""


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
    lasting: Lasting | None = None
    """What of it can be written into the notes."""


@dataclass(kw_only=True)
class UnderstoodPart:
    """One part of how a question was understood."""

    text: str
    """In a few words."""
    words: list[str] = field(default_factory=list)
    """Those of the question that it stands for, as they stand there."""
    assumed: bool = False
    """Whether it narrows the rows without a word of the question for it."""


@dataclass
class ReadLine:
    """A line of what a statement does, in words: what kind of part it is, and what it says."""

    label: str
    """What kind of part it is, in the asker's language: Counted, Only, Per."""
    text: str
    """What it says."""
