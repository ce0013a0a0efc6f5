"""A whole result, handed over as a file."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any, Literal


@dataclass(kw_only=True)
class Delivery:
    """What came of it; the file itself lies with the service."""

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


@dataclass(frozen=True)
class Delivered:
    """Rows that were written away: how many, and the first of them as a sample (in wire form)."""

    columns: tuple[str, ...]
    types: tuple[str, ...]
    sample: list[list[Any]]
    rows: int
    bytes: int
    cut_by: Literal["rows", "bytes"] | None
    digest: str
    elapsed_ms: float
    until: dt.datetime | None = None
