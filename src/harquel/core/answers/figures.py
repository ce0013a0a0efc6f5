"""What a column of numbers is, and how many decimals show all of it: what clients need to write its values."""

from __future__ import annotations

from decimal import Decimal, InvalidOperation
from typing import Any, Literal

from sqlglot import exp

from harquel.contract.figures import HUGE
from harquel.core.review.calendar import is_year, timed
from harquel.core.review.statement import Level, Ref, Statement, called

Role = Literal["key", "year"]
MOST_DECIMALS = 2
_DEEPEST = 50
_ROUND = (exp.Round, exp.Trunc, exp.Floor, exp.Ceil, exp.Format, exp.NumberToStr, exp.ToChar)
_ROUNDING = frozenset("ROUND TRUNC TRUNCATE FLOOR CEIL CEILING FORMAT PRINTF TO_CHAR".split())
_COARSE = frozenset({*exp.DataType.INTEGER_TYPES, exp.DataType.Type.DECIMAL})


def roles_of(statement: Statement) -> list[Role | None]:
    """One role per column of the outermost query; None for a figure, and for what is no number."""
    if not statement.levels:
        return []
    stars = {id(node): columns for node, columns in statement.names.stars}
    return [_role(p.unalias(), statement) for node in statement.outer.select.expressions
            for p in stars.get(id(node), [node])]  # fmt: skip


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
    ref = statement.ref_at(node, level)
    if ref is None:
        return None
    return "year" if is_year(ref.column) else "key" if _is_key(ref) else None


def worked_out(statement: Statement) -> set[int]:
    """The columns of the outermost query that are counted, summed or averaged: figures, whatever numbers they hold."""
    if not statement.levels or any(True for _ in statement.names.stars):
        return set()
    return {place for place, (node, _) in enumerate(_shown(statement)) if node.find(exp.Count, exp.Sum, exp.Avg)}


def rounds(statement: Statement) -> bool:
    """Whether anything in it is rounded, cut off or written as a text of so many digits."""
    return any(
        isinstance(n, _ROUND) or called(n) in _ROUNDING or (isinstance(n, exp.Cast) and n.to.this in _COARSE)
        for n in statement.tree.walk()
    )  # fmt: skip


def telling_apart(statement: Statement) -> set[int]:
    """The columns of the outermost query that say which row or group one is: keys, and what is grouped by."""
    keys = {place for place, role in enumerate(roles_of(statement)) if role == "key"}
    if not statement.levels or any(True for _ in statement.names.stars):
        return keys
    grouped = {
        place for place, (node, level) in enumerate(_shown(statement))
        if any(node == g for g in level.groups)
    }  # fmt: skip
    return keys | grouped


def _shown(statement: Statement) -> list[tuple[exp.Expr, Level]]:
    """What stands behind each column of the outermost query, and in which query."""
    return [statement.origin(p.unalias(), statement.outer) for p in statement.outer.select.expressions]


def _is_key(ref: Ref) -> bool:
    return ref.column.primary_key or any(ref.column.name in k.columns for k in ref.table.foreign_keys)


def decimals_of(values: list[Any], unit: str | None) -> int:
    """The fewest decimals, at most two, that show every value as well as two do; money always has two."""
    if unit is not None and len(unit) == 3 and unit.isascii() and unit.isupper():
        return MOST_DECIMALS
    return max((_needed(v) for v in values), default=0)


def _needed(value: Any) -> int:
    try:
        number = Decimal(str(value))
    except InvalidOperation:
        return 0
    # Of larger ones no decimals are shown (contract/figures.py).
    if not number.is_finite() or abs(number) >= HUGE:
        return 0
    cents = int((number * 100).to_integral_value())
    return 0 if cents % 100 == 0 else 1 if cents % 10 == 0 else 2
