"""What a column of numbers is, and how many decimals show all of it: what clients need to write its values."""

from __future__ import annotations

from decimal import Decimal, InvalidOperation
from typing import Any, Literal

from sqlglot import exp

from harquel.core.review.calendar import timed
from harquel.core.review.statement import Ref, Statement

Role = Literal["key", "year"]
MOST_DECIMALS = 2
_DEEPEST = 50


def roles_of(statement: Statement) -> list[Role | None]:
    """One role per projection of the outermost query; None for a figure, and for what is no number."""
    return [_role(p.unalias(), statement) for p in statement.outer.select.expressions]


def _role(node: exp.Expr, statement: Statement) -> Role | None:
    level = statement.outer
    for _ in range(_DEEPEST):
        node, level = statement.origin(node, level)
        if not isinstance(node, exp.Max | exp.Min | exp.Paren):
            break
        node = node.this
    when = timed(node, statement)
    if when is not None and when.unit == "year":
        return "year"
    ref = statement.ref(node)
    return "key" if ref is not None and _is_key(ref) else None


def _is_key(ref: Ref) -> bool:
    return ref.column.primary_key or any(ref.column.name in k.columns for k in ref.table.foreign_keys)


def decimals_of(values: list[Any], unit: str | None) -> int:
    """The fewest decimals, at most two, that show every value as well as two do; money always has two."""
    if unit is not None and len(unit) == 3 and unit.isascii() and unit.isupper():
        return MOST_DECIMALS
    return max((_needed(v) for v in values), default=0)


def _needed(value: Any) -> int:
    try:
        cents = (Decimal(str(value)) * 100).to_integral_value()
    except (InvalidOperation, OverflowError):
        return 0
    return 0 if not cents.is_finite() or cents % 100 == 0 else 1 if cents % 10 == 0 else 2
