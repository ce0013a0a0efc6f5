"""A statement as the rules of review read it: its queries, what stands in FROM, the joins, the conditions.

Made in one walk over the tree (`reading`); every column of a table is known by what the resolver found.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import Any, TypeVar

from sqlglot import exp

from harquel.core.domain.catalog import Catalog
from harquel.core.sql.names import Resolution, resolve

from .nodes import Plain, arguments, called, is_aggregate, plain, within
from .parts import Condition, Level, Part, Place, Ref, Role, refs_below
from .reading import read_levels

__all__ = [
    "Condition", "Level", "Part", "Place", "Plain", "Ref", "Role", "Statement", "arguments", "called",
    "is_aggregate", "plain", "statement_of", "within",
]  # fmt: skip

T = TypeVar("T")


class Statement:
    """All queries of a statement, outermost first, with what their columns mean."""

    def __init__(self, tree: exp.Expr, names: Resolution, catalog: Catalog) -> None:
        self.tree, self.names, self.catalog = tree, names, catalog
        self.meaning = {id(node): Ref(table, column) for node, column, table in names.columns}
        self.tables = {id(node): table for node, table in names.tables}
        self.levels = read_levels(tree, self.meaning, self.tables)
        self._made: dict[tuple[str, int, int], tuple[exp.Expr, Any]] = {}
        """What `once` keeps. The node is kept with it, so that no other takes its id."""

    @property
    def outer(self) -> Level:
        """The query whose columns are the answer; of a set operation the first branch."""
        return self.levels[0]

    @cached_property
    def conditions(self) -> list[Condition]:
        """All conditions of all queries."""
        return [c for level in self.levels for c in level.conditions]

    @cached_property
    def read(self) -> frozenset[tuple[str, str]]:
        """Tables and columns that are read."""
        return frozenset((t, c) for t, columns in self.names.reads.items() for c in columns)

    @cached_property
    def literals(self) -> list[Plain]:
        """Every literal of the statement."""
        return [plain(n) for n in self.tree.find_all(exp.Literal)]

    def ref(self, node: exp.Expr | None) -> Ref | None:
        """The column of a table that a node is."""
        return self.meaning.get(id(node))

    def ref_at(self, node: exp.Expr, level: Level) -> Ref | None:
        """The same, of a column, too, that a star stands for and that is named nowhere in the statement itself."""
        found = self.ref(node)
        if found is not None or not isinstance(node, exp.Column):
            return found
        part = self.part(node, level)
        table = part[0].table if part is not None else None
        column = table.column(node.name) if table is not None else None
        return Ref(table, column) if table is not None and column is not None else None

    def part(self, node: exp.Column, level: Level) -> tuple[Part, Level] | None:
        """What in FROM a column comes from, and where that stands."""
        name, ref = node.table.casefold(), self.ref(node)
        for here in level.above():
            if name:
                if name in here.parts:
                    return here.parts[name], here
                continue
            for part in here.parts.values():
                if ref is not None and part.table is ref.table:
                    return part, here
                if ref is None and part.derived is not None and node.name.casefold() in part.derived.outputs:
                    return part, here
        return None

    def origin(self, node: exp.Expr, level: Level) -> tuple[exp.Expr, Level]:
        """The expression behind a column of a subquery, through as many of them as there are."""
        while isinstance(node, exp.Column) and self.ref(node) is None:
            if not node.table and node.name.casefold() in level.outputs:
                inside = level.outputs[node.name.casefold()]
                if inside is node or (isinstance(inside, exp.Column) and inside.name == node.name):
                    found = self.part(node, level)
                    if found is None:
                        break
                else:
                    node = inside
                    continue
            found = self.part(node, level)
            if found is None or found[0].derived is None:
                break
            inner = found[0].derived
            target = inner.outputs.get(node.name.casefold())
            if target is None:
                break
            node, level = target, inner
        return node, level

    def refs(self, node: exp.Expr) -> list[Ref]:
        """The columns of tables below a node, without what stands in queries of their own."""
        return refs_below(node, self.meaning)

    def deep_refs(self, node: exp.Expr, level: Level) -> list[tuple[Ref, Level]]:
        """The same through subqueries in FROM, each column once for a query."""
        nothing: list[tuple[Ref, Level]] = []
        return self.once("deep refs", node, level, nothing, lambda: self._deep_refs(node, level))

    def _deep_refs(self, node: exp.Expr, level: Level) -> list[tuple[Ref, Level]]:
        found: dict[tuple[tuple[str, str], int], tuple[Ref, Level]] = {}
        for here in within(node):
            if isinstance(here, exp.Column):
                ref = self.ref(here)
                if ref is not None:
                    found[ref.key, id(level)] = (ref, level)
                    continue
                source, where = self.origin(here, level)
                if source is not here:
                    found.update({(r.key, id(lv)): (r, lv) for r, lv in self.deep_refs(source, where)})
        return list(found.values())

    def once(self, what: str, node: exp.Expr, level: Level, meanwhile: T, make: Callable[[], T]) -> T:
        """What `make` gives for a node of a query, made once however many ways lead there.

        Queries made of queries twice over would be read more often than there are stars. `meanwhile` is what a
        recursive query finds where it comes upon itself.
        """
        key = (what, id(node), id(level))
        if key not in self._made:
            self._made[key] = (node, meanwhile)
            self._made[key] = (node, make())
        made: T = self._made[key][1]
        return made


def statement_of(tree: exp.Expr, catalog: Catalog) -> Statement:
    """A statement with its names resolved against what may be seen."""
    return Statement(tree, resolve(tree, catalog), catalog)
