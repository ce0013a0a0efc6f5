"""Conditions, taken apart at AND and OR, with NOT carried into the operator."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Final

from sqlglot import exp

from .nodes import Plain, plain, within
from .parts import Condition, Level, Meaning, Place, Ref, Role, refs_below

FLIPPED: Final = {"<": ">", ">": "<", "<=": ">=", ">=": "<=", "=": "=", "<>": "<>"}
NEGATED: Final = {
    "=": "<>", "<>": "=", "<": ">=", ">=": "<", ">": "<=", "<=": ">", "in": "not in", "not in": "in",
    "like": "not like", "not like": "like", "is null": "is not null", "is not null": "is null",
    "true": "false", "false": "true", "between": "not between", "not between": "between",
}  # fmt: skip
COMPARES: Final[dict[type[exp.Expr], str]] = {
    exp.EQ: "=", exp.NEQ: "<>", exp.LT: "<", exp.LTE: "<=", exp.GT: ">", exp.GTE: ">=",
    exp.NullSafeEQ: "=", exp.NullSafeNEQ: "<>",
}  # fmt: skip


@dataclass(frozen=True)
class Spot:
    """Where a condition stands. `search` is whether queries within it are still to be read."""

    level: Level
    place: Place
    negated: bool = False
    either: bool = False
    search: bool = True


class ConditionReader:
    """Puts the conditions that it reads on their level; queries within them go to `query`, other parts to `inside`."""

    def __init__(
        self, meaning: Meaning, query: Callable[[exp.Expr, Role, Level, bool], object],
        inside: Callable[[exp.Expr, Level], None],
    ) -> None:  # fmt: skip
        self._meaning, self._query, self._inside = meaning, query, inside

    def split(self, node: exp.Expr, spot: Spot) -> None:
        """Reads a condition: at AND and OR, NOT is carried down."""
        while isinstance(node, exp.Paren):
            node = node.this
        if isinstance(node, exp.And | exp.Or):
            both = isinstance(node, exp.And) is not spot.negated
            below = replace(spot, either=spot.either or not both)
            self.split(node.this, below)
            self.split(node.expression, below)
        elif isinstance(node, exp.Not):
            self.split(node.this, replace(spot, negated=not spot.negated))
        elif isinstance(node, exp.Exists):
            if spot.search:
                self._query(node.this, "exists", spot.level, spot.negated != spot.level.negated)
        else:
            if spot.search:
                self._operands(node, spot)
            self._one(node, spot)

    def compare(self, op: str, left: exp.Expr, right: exp.Expr, node: exp.Expr, spot: Spot) -> None:
        """Reads a comparison; a literal on the left changes sides."""
        value = plain(right)
        if value is None and not isinstance(right, exp.Null) and plain(left) is not None:
            left, right, op = right, left, FLIPPED[op]
            value = plain(right)
        known = value is not None
        self._add(op, left, (value,) if known else (), None if known else right, node, spot)

    def _one(self, node: exp.Expr, spot: Spot) -> None:
        if type(node) in COMPARES:
            self.compare(COMPARES[type(node)], node.this, node.expression, node, spot)
        elif isinstance(node, exp.Between):
            ends = node.args["low"], node.args["high"]
            values = tuple(plain(e) for e in ends)
            known = None not in values
            self._add("between", node.this, values if known else (), None if known else ends[0], node, spot)
        elif isinstance(node, exp.In):
            self._in(node, spot)
        elif isinstance(node, exp.Is) and isinstance(node.expression, exp.Null):
            self._add("is not null" if node.args.get("negate") else "is null", node.this, (), None, node, spot)
        elif isinstance(node, exp.Is):
            self._add("=", node.this, (plain(node.expression),), None, node, spot)
        elif isinstance(node, exp.Like | exp.ILike):
            self._add("like", node.this, (plain(node.expression),), None, node, spot)
        elif isinstance(node, exp.Column):
            self._add("true", node, (True,), None, node, spot)
        else:
            self._add("other", node, (), None, node, spot)

    def _in(self, node: exp.In, spot: Spot) -> None:
        listed = [plain(e) for e in node.expressions]
        if node.args.get("query") is not None:
            self._add("in", node.this, (), node.args["query"], node, spot)
        elif isinstance(node.this, exp.Column) and any(isinstance(e, exp.Column) for e in node.expressions):
            for option in node.expressions:
                self.compare("=", node.this, option, node, replace(spot, either=True))
        else:
            self._add("in", node.this, tuple(listed) if None not in listed else (), None, node, spot)

    def _add(
        self, op: str, subject: exp.Expr, values: tuple[Plain, ...], other: exp.Expr | None, node: exp.Expr, spot: Spot
    ) -> None:
        op = NEGATED.get(op, op) if spot.negated else op
        ref = self._ref(subject)
        spot.level.conditions.append(
            Condition(node, spot.level, spot.place, op, subject, ref, values, other, spot.either)
        )

    def _ref(self, node: exp.Expr) -> Ref | None:
        """The one column that a side of a comparison is made of."""
        if isinstance(node, exp.Column):
            return self._meaning.get(id(node))
        found = {id(r.column): r for r in refs_below(node, self._meaning)}
        return next(iter(found.values())) if len(found) == 1 else None

    def _operands(self, node: exp.Expr, spot: Spot) -> None:
        if isinstance(node, exp.In) and node.args.get("query") is not None:
            self._query(node.args["query"], "in", spot.level, spot.negated != spot.level.negated)
            self._inside(node.this, spot.level)
            return
        for child in node.iter_expressions():
            for here in within(child):
                if isinstance(here, exp.Subquery):
                    self._query(here, "scalar", spot.level, False)
