"""What stands in FROM, and which names can be used there."""

from __future__ import annotations

from dataclasses import dataclass, field

from sqlglot import exp

from harquel.core.domain.catalog import Table


@dataclass
class Source:
    """Something that can stand in FROM. `columns` maps folded to written names; None: unknowable."""

    alias: str
    columns: dict[str, str] | None
    table: Table | None = None
    hidden: frozenset[str] = frozenset()
    """Folded names of columns that the database would find here and that the policy withholds from the asker."""
    cte: exp.CTE | None = None
    """That under which it stands, where it is one."""


@dataclass
class Scope:
    """The sources of one SELECT, and the one around it."""

    sources: dict[str, Source]
    aliases: set[str]
    parent: Scope | None
    joined: set[str] = field(default_factory=set)
    """Columns that USING merges: naming one without its table is not ambiguous."""


Ctes = dict[str, Source]


def is_taken(name: str, level: Scope) -> bool:
    """Whether a bare name means a withheld column here, or, on PostgreSQL, the whole row of the table of that name."""
    sources = level.sources
    whole_row = name in sources and not any(s.columns is None or name in s.columns for s in sources.values())
    return whole_row or any(name in s.hidden for s in sources.values())


def is_join(node: exp.Expr) -> bool:
    """Whether a parenthesis in FROM holds tables, or queries with names, rather than a query."""
    inner = node.this
    if isinstance(inner, exp.Subquery):
        return bool(inner.alias or inner.args.get("joins")) or is_join(inner)
    return isinstance(inner, exp.Table)


def source_of(alias: str, columns: list[str] | None) -> Source:
    """A query under a name; None: its columns cannot be known."""
    return Source(alias, None if columns is None else {c.casefold(): c for c in columns})
