"""The one walk over a statement that finds its queries, what stands in FROM, the joins and the conditions."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from sqlglot import exp

from harquel.core.domain.catalog import Table

from .conditions import COMPARES, ConditionReader, Spot
from .nodes import plain, within
from .parts import Level, Meaning, Part, Role


def read_levels(tree: exp.Expr, meaning: Meaning, tables: Mapping[int, Table]) -> list[Level]:
    """All queries of a statement, outermost first. `tables` is from the id of a node to its table."""
    reader = _Reader(meaning, tables)
    reader.read(tree)
    return reader.levels


class _Reader:
    def __init__(self, meaning: Meaning, tables: Mapping[int, Table]) -> None:
        self._meaning, self._tables = meaning, tables
        self._conditions = ConditionReader(meaning, self._below, self._inside)
        self.levels: list[Level] = []

    def read(self, tree: exp.Expr) -> None:
        self._query(tree, "outer", None, {}, False, None)

    def _below(self, node: exp.Expr, role: Role, level: Level, negated: bool) -> None:
        self._query(node, role, level, level.ctes, negated, None)

    def _query(
        self, node: exp.Expr, role: Role, parent: Level | None, ctes: dict[str, Level], negated: bool,
        above: exp.Expr | None,
    ) -> Level | None:  # fmt: skip
        ctes = dict(ctes)
        with_ = node.args.get("with_")
        later: list[Level] = []
        mark = len(self.levels)
        for cte in with_.expressions if with_ is not None else ():
            level = self._query(cte.this, "derived", parent, ctes, False, None)
            if level is not None:
                ctes[cte.alias.casefold()] = level
        if mark == 0:
            later, self.levels = self.levels, []
        try:
            if isinstance(node, exp.Subquery):
                return self._query(node.this, role, parent, ctes, negated, above)
            if isinstance(node, exp.SetOperation):
                first = self._query(node.this, role, parent, ctes, negated, node)
                less = isinstance(node, exp.Except)
                self._query(node.expression, "branch", parent, ctes, negated or less, node)
                return first
            if isinstance(node, exp.Select):
                return self._select(node, role, parent, ctes, negated, above)
            return None
        finally:
            self.levels += later

    def _select(
        self, node: exp.Select, role: Role, parent: Level | None, ctes: dict[str, Level], negated: bool,
        above: exp.Expr | None,
    ) -> Level:  # fmt: skip
        level = Level(node, role, parent, negated, ctes=ctes, set_parent=above)
        self.levels.append(level)
        if parent is not None:
            parent.children.append(level)
        from_ = node.args.get("from_")
        if from_ is not None:
            self._part(from_.this, "from", level)
        joins = node.args.get("joins") or ()
        for join in joins:
            self._part(join.this, _side(join), level)
        group, order = node.args.get("group"), node.args.get("order")
        level.groups = [self._grouped(g, level) for g in group.expressions] if group is not None else []
        level.order = list(order.expressions) if order is not None else []
        level.limit = _limit(node)
        if level.limit is None and above is not None:
            level.limit = _limit(above)
        self._tests(node.args.get("where"), "where", level)
        for join in joins:
            if join.args.get("on") is not None:
                self._conditions.split(join.args["on"], Spot(level, "on"))
        self._tests(node.args.get("having"), "having", level)
        for place in (*node.expressions, order, group):
            if place is not None:
                self._inside(place, level)
        return level

    def _tests(self, node: exp.Expr | None, place: Literal["where", "having"], level: Level) -> None:
        if node is not None:
            self._conditions.split(node.this, Spot(level, place))

    def _part(self, node: exp.Expr, side: str, level: Level) -> None:
        alias = node.alias_or_name.casefold()
        if isinstance(node, exp.Subquery) and not alias and isinstance(node.this, exp.Table):
            self._part(node.this, side, level)
            return
        part = Part(alias, node, side, self._tables.get(id(node)))
        if isinstance(node, exp.Table) and part.table is None:
            part.derived = level.ctes.get(node.name.casefold())
        elif isinstance(node, exp.Subquery):
            part.derived = self._query(node, "derived", level, level.ctes, False, None)
        elif isinstance(node, exp.Lateral):
            part.derived = self._query(node.this, "derived", level, level.ctes, False, None)
        level.parts[alias or f"#{len(level.parts)}"] = part

    def _grouped(self, node: exp.Expr, level: Level) -> exp.Expr:
        """What is grouped by: a position or a name of the output stands for its expression."""
        if isinstance(node, exp.Literal) and not node.is_string:
            number = int(node.this) - 1
            projections = level.select.expressions
            return projections[number].unalias() if 0 <= number < len(projections) else node
        if isinstance(node, exp.Column) and not node.table and id(node) not in self._meaning:
            return level.outputs.get(node.name.casefold(), node)
        return node

    def _inside(self, node: exp.Expr, level: Level) -> None:
        """Queries and conditions within an expression."""
        for here in within(node):
            if isinstance(here, exp.Subquery):
                self._below(here, "scalar", level, False)
            elif isinstance(here, exp.Exists):
                self._below(here.this, "exists", level, isinstance(here.parent, exp.Not))
            elif isinstance(here, exp.In) and here.args.get("query") is not None:
                self._below(here.args["query"], "in", level, isinstance(here.parent, exp.Not))
            elif isinstance(here, exp.Case):
                self._case(here, level)
            elif isinstance(here, exp.Filter):
                self._conditions.split(here.expression.this, Spot(level, "case", search=False))
            elif type(here) in COMPARES and not isinstance(node, exp.Group):
                around = here.find_ancestor(exp.If, exp.Case, exp.Select)
                if isinstance(around, exp.Select):
                    # A comparison that is itself counted or averaged: AVG(status = 'X').
                    self._conditions.split(here, Spot(level, "case", search=False))

    def _case(self, node: exp.Case, level: Level) -> None:
        for branch in node.args["ifs"]:
            if node.this is None:
                self._conditions.split(branch.this, Spot(level, "case", search=False))
            else:
                self._conditions.compare("=", node.this, branch.this, branch, Spot(level, "case", either=True))


def _side(join: exp.Join) -> str:
    """What a join keeps of what has no partner, or `cross` where nothing ties the two."""
    side = (join.side or join.kind or "").lower() or ("inner" if join.args.get("on") else "cross")
    return "inner" if side in ("inner", "outer") or join.args.get("using") else side


def _limit(node: exp.Expr) -> int | None:
    limit = node.args.get("limit")
    value = plain(limit.expression) if limit is not None and limit.args.get("expression") is not None else None
    return int(value) if isinstance(value, float) else None
