"""A question with SQL that is known to answer it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Example:
    """`tables` are those that the SQL reads; an example whose tables are not exposed is not used."""

    question: str
    sql: str
    tables: tuple[str, ...]
