"""A statement's way from proposal to permission, as types: only the guard makes a RuledStatement."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NewType

DraftedStatement = NewType("DraftedStatement", str)
"""SQL as a model or a person wrote it. Nothing runs it."""


@dataclass(frozen=True)
class SeenThrough:
    """A statement for somebody who sees a part of some tables only, as the sandbox runs it.

    It says the same as the text that is shown. `mark` cannot be guessed; `tables` are (schema, name) of those that
    may be read in part only. On SQLite `views` (name to query) stand in the places of those tables, and the worker
    lets the tables be read through them only. On the servers every table inside a wrapper bears an alias that ends
    with the mark, and the worker refuses where the database's own plan reads one of `tables` under another alias.
    """

    sql: str
    mark: str
    tables: tuple[tuple[str, str], ...]
    views: dict[str, str]


@dataclass(frozen=True)
class RuledStatement:
    """Our own rendering of a statement that the guard let through, limits written in.

    `reads` maps each table to the columns that the statement may read; the sandbox's authorizer holds
    it to that. `rows` is the limit that was written in (one row more is asked for, so that a cut is
    known). `seen_through` is there for people with row rules or masks. `called` maps what a table is called in it,
    folded, to its name: plans know only the former.
    """

    sql: str
    reads: dict[str, frozenset[str]]
    rows: int
    seen_through: SeenThrough | None = None
    called: dict[str, str] = field(default_factory=dict)
