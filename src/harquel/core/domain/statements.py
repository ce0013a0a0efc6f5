"""A statement's way from proposal to permission, as types: only the guard makes a RuledStatement."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NewType

DraftedStatement = NewType("DraftedStatement", str)
"""SQL as a model or a person wrote it. Nothing runs it."""


@dataclass(frozen=True)
class RuledStatement:
    """Our own rendering of a statement that the guard let through, limits written in.

    `reads` maps each table to the columns that the statement may read; the sandbox's authorizer holds
    it to that. `rows` is the limit that was written in (one row more is asked for, so that a cut is
    known).
    """

    sql: str
    reads: dict[str, frozenset[str]]
    rows: int
