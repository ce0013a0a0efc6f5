"""A file as it leaves."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass


@dataclass(frozen=True)
class Pieces:
    """The same of what is too large to be held at once."""

    name: str
    media_type: str
    pieces: Iterator[bytes]


@dataclass(frozen=True)
class File:
    """Bytes with the name and the media type that they go by."""

    name: str
    media_type: str
    content: bytes
