"""A file as it leaves."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class File:
    """Bytes with the name and the media type that they go by."""

    name: str
    media_type: str
    content: bytes
