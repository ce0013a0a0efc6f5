"""What came back from the database."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal


@dataclass(frozen=True)
class Result:
    """Rows in wire form (see the contract). `bytes` is the size of the values as text."""

    columns: tuple[str, ...]
    types: tuple[str, ...]
    rows: list[list[Any]]
    cut_by: Literal["rows", "bytes"] | None
    bytes: int
    elapsed_ms: float


@dataclass(frozen=True)
class Plan:
    """Steps in the engine's words, and the tables that are read from end to end.

    `rows` is what the engine expects to touch, `cost` in its own unit; None where it says nothing. `gathered` is how
    many values one aggregate may put together in the server's memory, 0 where there is none that does.
    """

    steps: tuple[str, ...]
    full_scans: tuple[str, ...]
    elapsed_ms: float
    rows: int | None = None
    cost: float | None = None
    gathered: int = 0
