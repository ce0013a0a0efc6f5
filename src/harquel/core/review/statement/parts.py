"""What a statement is made of: columns of tables, what stands in FROM, conditions, queries."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from sqlglot import exp

from harquel.core.domain.catalog import Column, Table

from .nodes import Plain, is_aggregate, within

Role = Literal["outer", "derived", "scalar", "exists", "in", "branch"]
Place = Literal["where", "on", "having", "case"]


@dataclass(frozen=True)
class Ref:
    """A column of a table, as the catalog knows it."""

    table: Table
    column: Column

    @property
    def key(self) -> tuple[str, str]:
        """Names of table and column."""
        return self.table.name, self.column.name

    def __str__(self) -> str:
        return f"{self.table.name}.{self.column.name}"


Meaning = Mapping[int, Ref]
"""From the id of a node to the column of a table that it is."""


def refs_below(node: exp.Expr, meaning: Meaning) -> list[Ref]:
    """The columns of tables below a node, without what stands in queries of their own."""
    return [r for n in within(node) if (r := meaning.get(id(n))) is not None]


@dataclass(eq=False)
class Part:
    """Something in FROM. `derived` is there for a subquery or CTE, `table` for a table of the catalog."""

    alias: str
    node: exp.Expr
    side: str
    """from, inner, left, right, full or cross."""
    table: Table | None = None
    derived: Level | None = None

    @property
    def one_row(self) -> bool:
        """Whether it can only be a single row: a bare aggregate."""
        level = self.derived
        if level is None:
            return isinstance(self.node, exp.Values) and len(self.node.expressions) == 1
        limit = level.limit
        return (level.aggregates and not level.groups) or limit == 1


@dataclass(frozen=True, eq=False)
class Condition:
    """One condition, with NOT carried into the operator. `ref` where one side is a column, plain or wrapped."""

    node: exp.Expr
    level: Level
    place: Place
    op: str
    subject: exp.Expr
    ref: Ref | None
    values: tuple[Plain, ...]
    other: exp.Expr | None = None
    """What it is compared with, when that is no literal."""
    either: bool = False
    """Whether it stands below an OR, so that rows can pass without it."""

    @property
    def bare(self) -> bool:
        """Whether the column itself is compared, nothing made from it."""
        return isinstance(self.subject, exp.Column)

    @property
    def negates(self) -> bool:
        """Whether it keeps what does not meet it."""
        return self.op in ("<>", "not in", "not like", "not between", "is null", "false") or (
            self.op == "=" and self.values in ((0.0,), (False,))
        )


@dataclass(eq=False)
class Level:
    """One SELECT with what stands directly in it."""

    select: exp.Select
    role: Role
    parent: Level | None
    negated: bool = False
    """Whether it is asked for what is not in it: NOT EXISTS, NOT IN, the right side of EXCEPT."""
    parts: dict[str, Part] = field(default_factory=dict)
    conditions: list[Condition] = field(default_factory=list)
    groups: list[exp.Expr] = field(default_factory=list)
    order: list[exp.Ordered] = field(default_factory=list)
    limit: int | None = None
    children: list[Level] = field(default_factory=list)
    ctes: dict[str, Level] = field(default_factory=dict)
    set_parent: exp.Expr | None = None

    @cached_property
    def outputs(self) -> dict[str, exp.Expr]:
        """Name of each output, folded, to its expression."""
        return {p.alias_or_name.casefold(): p.unalias() for p in self.select.expressions}

    @cached_property
    def aggregates(self) -> list[exp.Expr]:
        """The aggregates of this query itself, in projections, HAVING and ORDER BY; windows are none."""
        found = []
        for place in (*self.select.expressions, self.select.args.get("having"), self.select.args.get("order")):
            if place is not None:
                found += [n for n in within(place) if is_aggregate(n) and not isinstance(n.parent, exp.Window)]
        return found

    def above(self) -> Iterator[Level]:
        """This one and those around it, innermost first."""
        level: Level | None = self
        while level is not None:
            yield level
            level = level.parent
