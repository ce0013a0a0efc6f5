"""A statement as the rules of review read it: its queries, what stands in FROM, the joins, the conditions.

Made in one walk over the tree; every column of a table is known by what the resolver found.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.sql.names import Resolution, resolve

Role = Literal["outer", "derived", "scalar", "exists", "in", "branch"]
Place = Literal["where", "on", "having", "case"]
Plain = str | float | bool | None

_FLIPPED = {"<": ">", ">": "<", "<=": ">=", ">=": "<=", "=": "=", "<>": "<>"}
_NEGATED = {
    "=": "<>", "<>": "=", "<": ">=", ">=": "<", ">": "<=", "<=": ">", "in": "not in", "not in": "in",
    "like": "not like", "not like": "like", "is null": "is not null", "is not null": "is null",
    "true": "false", "false": "true", "between": "not between", "not between": "between",
}  # fmt: skip
_COMPARES: dict[type[exp.Expr], str] = {
    exp.EQ: "=", exp.NEQ: "<>", exp.LT: "<", exp.LTE: "<=", exp.GT: ">", exp.GTE: ">=",
    exp.NullSafeEQ: "=", exp.NullSafeNEQ: "<>",
}  # fmt: skip


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


def within(node: exp.Expr) -> Iterator[exp.Expr]:
    """A node and all below it, without what stands in queries of their own."""
    stack = [node]
    while stack:
        here = stack.pop()
        yield here
        if here is not node and isinstance(here, exp.Query):
            continue
        if isinstance(here, exp.Subquery | exp.Exists):
            continue
        if isinstance(here, exp.In) and here.args.get("query") is not None:
            stack.append(here.this)
            continue
        stack += list(here.iter_expressions())


def is_aggregate(node: exp.Expr) -> bool:
    """Whether it makes one value of many rows."""
    if isinstance(node, exp.AggFunc):
        return True
    name = called(node)
    return name in ("GROUP_CONCAT", "STRING_AGG", "TOTAL", "BOOL_OR", "BOOL_AND", "ARRAY_AGG", "STDDEV", "VARIANCE")


def called(node: exp.Expr | None) -> str:
    """The name of a function that the library was not told about, in capitals; empty for other nodes."""
    return str(node.this).upper() if isinstance(node, exp.Anonymous) else ""


def arguments(node: exp.Expr) -> list[exp.Expr]:
    """What such a function is given."""
    return list(node.expressions)


def plain(node: exp.Expr | None) -> Plain | None:
    """The value of a literal; None when it is none (and for NULL)."""
    if isinstance(node, exp.Literal):
        return str(node.this) if node.is_string else float(node.this)
    if isinstance(node, exp.Boolean):
        return bool(node.this)
    if isinstance(node, exp.Neg) and isinstance(node.this, exp.Literal) and not node.this.is_string:
        return -float(node.this.this)
    if isinstance(node, exp.Paren | exp.Cast | exp.Nullif):
        return plain(node.this)
    if called(node) == "NULLIF" and node is not None:
        return plain(node.expressions[0])
    if called(node) in ("DATE", "DATETIME", "TIMESTAMP") and node is not None and len(node.expressions) == 1:
        return plain(node.expressions[0])
    return None


class Statement:
    """All queries of a statement, outermost first, with what their columns mean."""

    def __init__(self, tree: exp.Expr, names: Resolution, catalog: Catalog) -> None:
        self.tree, self.names, self.catalog = tree, names, catalog
        self.meaning = {id(node): Ref(table, column) for node, column, table in names.columns}
        self.tables = {id(node): table for node, table in names.tables}
        self.levels: list[Level] = []
        self._query(tree, "outer", None, {}, False, None)

    # -- asking ----------------------------------------------------------------------------------

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
        return [r for n in within(node) if (r := self.ref(n)) is not None]

    def deep_refs(self, node: exp.Expr, level: Level) -> list[tuple[Ref, Level]]:
        """The same through subqueries in FROM."""
        found = []
        for here in within(node):
            if isinstance(here, exp.Column):
                ref = self.ref(here)
                if ref is not None:
                    found.append((ref, level))
                    continue
                source, where = self.origin(here, level)
                if source is not here:
                    found += self.deep_refs(source, where)
        return found

    # -- making ----------------------------------------------------------------------------------

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
            side = (join.side or join.kind or "").lower() or ("inner" if join.args.get("on") else "cross")
            side = "inner" if side in ("inner", "outer") or join.args.get("using") else side
            self._part(join.this, side, level)
        group = node.args.get("group")
        level.groups = [self._grouped(g, level) for g in group.expressions] if group is not None else []
        order = node.args.get("order")
        level.order = list(order.expressions) if order is not None else []
        level.limit = _limit(node)
        if level.limit is None and above is not None:
            level.limit = _limit(above)
        where, having = node.args.get("where"), node.args.get("having")
        if where is not None:
            self._conditions(where.this, level, "where", False, False)
        for join in joins:
            if join.args.get("on") is not None:
                self._conditions(join.args["on"], level, "on", False, False)
        if having is not None:
            self._conditions(having.this, level, "having", False, False)
        for place in (*node.expressions, order, group):
            if place is not None:
                self._inside(place, level)
        return level

    def _part(self, node: exp.Expr, side: str, level: Level) -> None:
        alias = node.alias_or_name.casefold()
        if isinstance(node, exp.Subquery) and not alias and isinstance(node.this, exp.Table):
            self._part(node.this, side, level)
            return
        part = Part(alias, node, side, self.tables.get(id(node)))
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
        if isinstance(node, exp.Column) and not node.table and self.ref(node) is None:
            return level.outputs.get(node.name.casefold(), node)
        return node

    def _inside(self, node: exp.Expr, level: Level) -> None:
        """Queries and conditions within an expression."""
        for here in within(node):
            if isinstance(here, exp.Subquery):
                self._query(here, "scalar", level, level.ctes, False, None)
            elif isinstance(here, exp.Exists):
                self._query(here.this, "exists", level, level.ctes, isinstance(here.parent, exp.Not), None)
            elif isinstance(here, exp.In) and here.args.get("query") is not None:
                self._query(here.args["query"], "in", level, level.ctes, isinstance(here.parent, exp.Not), None)
            elif isinstance(here, exp.Case):
                for branch in here.args["ifs"]:
                    test = branch.this if here.this is None else exp.EQ(this=here.this, expression=branch.this)
                    if here.this is None:
                        self._conditions(test, level, "case", False, False, search=False)
                    else:
                        self._compare("=", here.this, branch.this, branch, level, "case", True)
            elif isinstance(here, exp.Filter):
                self._conditions(here.expression.this, level, "case", False, False, search=False)
            elif type(here) in _COMPARES and not isinstance(node, exp.Group):
                inside = here.find_ancestor(exp.If, exp.Case, exp.Select)
                if isinstance(inside, exp.Select):
                    # A comparison that is itself counted or averaged: AVG(status = 'X').
                    self._conditions(here, level, "case", False, False, search=False)

    def _conditions(
        self, node: exp.Expr, level: Level, place: Place, negated: bool, either: bool, search: bool = True
    ) -> None:
        """Splits a condition at AND and OR; NOT is carried down."""
        while isinstance(node, exp.Paren):
            node = node.this
        if isinstance(node, exp.And | exp.Or):
            both = isinstance(node, exp.And) is not negated
            self._conditions(node.this, level, place, negated, either or not both, search)
            self._conditions(node.expression, level, place, negated, either or not both, search)
        elif isinstance(node, exp.Not):
            self._conditions(node.this, level, place, not negated, either, search)
        else:
            self._one(node, level, place, negated, either, search)

    def _one(self, node: exp.Expr, level: Level, place: Place, negated: bool, either: bool, search: bool) -> None:
        if isinstance(node, exp.Exists):
            if search:
                self._query(node.this, "exists", level, level.ctes, negated != level.negated, None)
            return
        if search:
            self._inside_operands(node, level, negated)

        def add(op: str, subject: exp.Expr, values: tuple[Plain, ...], other: exp.Expr | None = None) -> None:
            op = _NEGATED.get(op, op) if negated else op
            found = Condition(node, level, place, op, subject, self._subject_ref(subject), values, other, either)
            level.conditions.append(found)

        kind = type(node)
        if kind in _COMPARES:
            self._compare(_COMPARES[kind], node.this, node.expression, node, level, place, either, negated)
        elif isinstance(node, exp.Between):
            ends = node.args["low"], node.args["high"]
            values = tuple(plain(e) for e in ends)
            add("between", node.this, values if None not in values else (), None if None not in values else ends[0])
        elif isinstance(node, exp.In):
            listed = [plain(e) for e in node.expressions]
            if node.args.get("query") is not None:
                add("in", node.this, (), node.args["query"])
            elif isinstance(node.this, exp.Column) and any(isinstance(e, exp.Column) for e in node.expressions):
                for option in node.expressions:
                    self._compare("=", node.this, option, node, level, place, True, negated)
            else:
                add("in", node.this, tuple(listed) if None not in listed else ())
        elif isinstance(node, exp.Is):
            if isinstance(node.expression, exp.Null):
                add("is not null" if node.args.get("negate") else "is null", node.this, ())
            else:
                add("=", node.this, (plain(node.expression),))
        elif isinstance(node, exp.Like | exp.ILike):
            add("like", node.this, (plain(node.expression),))
        elif isinstance(node, exp.Column):
            add("true", node, (True,))
        else:
            add("other", node, ())

    def _compare(
        self, op: str, left: exp.Expr, right: exp.Expr, node: exp.Expr, level: Level, place: Place, either: bool,
        negated: bool = False,
    ) -> None:  # fmt: skip
        value = plain(right)
        if value is None and not isinstance(right, exp.Null) and plain(left) is not None:
            left, right, op = right, left, _FLIPPED[op]
            value = plain(right)
        op = _NEGATED[op] if negated else op
        known = value is not None
        level.conditions.append(
            Condition(
                node,
                level,
                place,
                op,
                left,
                self._subject_ref(left),
                (value,) if known else (),
                None if known else right,
                either,
            )
        )

    def _subject_ref(self, node: exp.Expr) -> Ref | None:
        """The one column that a side of a comparison is made of."""
        if isinstance(node, exp.Column):
            return self.ref(node)
        found = {id(r.column): r for r in self.refs(node)}
        return next(iter(found.values())) if len(found) == 1 else None

    def _inside_operands(self, node: exp.Expr, level: Level, negated: bool) -> None:
        if isinstance(node, exp.In) and node.args.get("query") is not None:
            self._query(node.args["query"], "in", level, level.ctes, negated != level.negated, None)
            self._inside(node.this, level)
            return
        for child in node.iter_expressions():
            for here in within(child):
                if isinstance(here, exp.Subquery):
                    self._query(here, "scalar", level, level.ctes, False, None)


def statement_of(tree: exp.Expr, catalog: Catalog) -> Statement:
    """A statement with its names resolved against what may be seen."""
    return Statement(tree, resolve(tree, catalog), catalog)


def _limit(node: exp.Expr) -> int | None:
    limit = node.args.get("limit")
    value = plain(limit.expression) if limit is not None and limit.args.get("expression") is not None else None
    return int(value) if isinstance(value, float) else None
