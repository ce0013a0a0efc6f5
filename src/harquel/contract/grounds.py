"""What an answer stands on, in words."""

from __future__ import annotations

import datetime as dt
from typing import Literal

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


class Worded(Shape):
    """That a model has put the answer into words, and what became of those."""

    model: str
    """The model that was asked."""
    plain: str
    """Our own sentence; it stands where nothing that the model said does."""
    struck: list[str] = []
    """Sentences of the model's that say something that is not found in the rows."""


class Delivery(Shape):
    """A whole result as a file, see `GET inquiries/{id}/file` with `form` csv or jsonl."""

    rows: int
    """How many rows are in it."""
    bytes: int
    """The size of their values as text."""
    cut_by: Literal["rows", "bytes"] | None = None
    """The limit of deliveries that cut it; null: it is whole."""
    digest: str = ""
    """SHA-256 of the file, a JSON array for each row, in hexadecimal."""
    until: dt.datetime | None = None
    """When the file is deleted."""


class Delivering(Shape):
    """How far a delivery under way has come."""

    rows: int
    """Rows that have been written so far."""
    bytes: int
    """Their size as text."""


class Fresh(Shape):
    """Up to when the data reach that an answer was made from, and by what that is known."""

    at: dt.datetime
    """The instant."""
    by: Literal["column", "replica", "file"]
    """The newest value of a column that the notes name; how far a replica is; when the file was written."""
    of: str = ""
    """The column, as table.column; empty for others."""
    said: str = ""
    """The same in words, in the asker's language and the zone of the source."""


class Since(Shape):
    """What is different now from an earlier answer by the same statement."""

    inquiry: str
    """The earlier inquiry."""
    as_of: dt.datetime | None = None
    """The instant that it was about."""
    same: bool | None = None
    """Whether the rows are the same; null where they cannot be compared."""
    said: str = ""
    """What is different, in words."""
    come: int = 0
    """Rows that are new."""
    gone: int = 0
    """Rows that are no more."""
    changed: int = 0
    """Rows of which something else than what tells them apart is different."""
