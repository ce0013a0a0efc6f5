"""The unit of an expression, carried from the notes through sums, products and conversions."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Final

from sqlglot import exp

from harquel.core.domain.units import Units
from harquel.core.review.calendar import is_temporal
from harquel.core.review.statement import Level, called, plain

if TYPE_CHECKING:
    from harquel.core.review.context import ReviewContext

_SAME: Final = (exp.Nullif, exp.Paren, exp.Cast, exp.Abs, exp.Neg, exp.Coalesce, exp.Window, exp.Filter, exp.Distinct)
_ROUNDING: Final = frozenset("NULLIF ROUND IFNULL TRUNC TRUNCATE FLOOR CEIL CEILING TOTAL NVL".split())
_READING: Final = re.compile(r"\bso far\b|\bcumulative\b|\bodometer\b|\bmeter reading\b|\bcounter\b", re.IGNORECASE)
_RATE: Final = re.compile(r"(?:^|_)(?:per|rate|price|percent|pct|share|ratio)(?:_|$)|_per_", re.IGNORECASE)


@dataclass(frozen=True)
class Quantity:
    """`unit` is empty where nothing is known. `amount`: it adds up; `rate`: adding it up says nothing."""

    unit: str = ""
    amount: bool = False
    rate: bool = False
    reading: bool = False
    factor: float = 1.0
    """What it was multiplied by since its unit was certain."""
    scale_unknown: bool = False
    faults: tuple[str, ...] = field(default=())
    hint: str = ""


NOTHING: Final = Quantity()


def quantity_of(node: exp.Expr, level: Level, context: ReviewContext) -> Quantity:
    """What an expression measures."""
    made = _read(node, level, context)
    if made.factor != 1.0 and made.unit:
        return _settled(made, context.notes.known_units)
    return made


def _settled(made: Quantity, units: Units) -> Quantity:
    """After all factors: a known conversion, a share in per cent, or a fault."""
    into = units.converted(made.unit, made.factor)
    if into is not None:
        return replace(made, unit=into, factor=1.0)
    known = units.known(made.unit)
    if known is not None and known.exact:
        fault = f"{made.unit} times {made.factor:g} is no unit."
        return replace(made, faults=(*made.faults, fault), hint=units.said(made.unit) or made.hint)
    return Quantity(faults=made.faults, hint=made.hint)


def _read(node: exp.Expr, level: Level, context: ReviewContext) -> Quantity:
    if isinstance(node, exp.Column):
        return _column(node, level, context)
    if isinstance(node, exp.Sum | exp.Avg | exp.Max | exp.Min):
        return _aggregate(node, level, context)
    if isinstance(node, exp.Count) or called(node) in ("COUNT",):
        return NOTHING
    if isinstance(node, _SAME) or called(node) in _ROUNDING:
        inner = node.expressions[0] if isinstance(node, exp.Distinct) or called(node) else node.this
        return _read(inner, level, context) if isinstance(inner, exp.Expr) else NOTHING
    if isinstance(node, exp.Case):
        ends = [b.args["true"] for b in node.args["ifs"]]
        found = [_read(e, level, context) for e in ends]
        return next((f for f in found if f.unit), NOTHING)
    if isinstance(node, exp.Sub):
        return _difference(node, level, context)
    if isinstance(node, exp.Add):
        left, right = _read(node.this, level, context), _read(node.expression, level, context)
        return left if left.unit == right.unit else NOTHING
    if isinstance(node, exp.Mul | exp.Div):
        return _product(node, level, context)
    if isinstance(node, exp.Subquery):
        inner = next((lv for lv in context.statement.levels if lv.select is node.find(exp.Select)), None)
        return _read(inner.select.expressions[0].unalias(), inner, context) if inner is not None else NOTHING
    return NOTHING


def _through(node: exp.Column, level: Level, context: ReviewContext) -> Quantity:
    """What a column of a subquery measures: the expression behind it."""
    source, where = context.statement.origin(node, level)
    return _read(source, where, context) if source is not node else NOTHING


def _column(node: exp.Column, level: Level, context: ReviewContext) -> Quantity:
    ref = context.statement.ref(node)
    if ref is None:
        return context.statement.once("quantity", node, level, NOTHING, lambda: _through(node, level, context))
    about = context.about(*ref.key)
    said = f"{about.text} {ref.column.comment} {ref.column.name.replace('_', ' ')}"
    units, unit = context.notes.known_units, about.unit or ""
    known = units.known(unit)
    rate = (
        bool(_RATE.search(ref.column.name)) or units.numerator(unit) is not None or (known is not None and known.rate)
    )
    reading = bool(_READING.search(said))
    return Quantity(unit, amount=bool(unit) and not rate and not reading, rate=rate, reading=reading)


def _aggregate(node: exp.Expr, level: Level, context: ReviewContext) -> Quantity:
    inner = _read(node.this, level, context) if isinstance(node.this, exp.Expr) else NOTHING
    if isinstance(node, exp.Sum) and isinstance(node.this, exp.Column):
        if inner.rate:
            fault = f"{node.this.sql()} is a rate; adding rates up says nothing."
            return replace(inner, faults=(fault,), hint="Average it, or multiply it by its amount first.")
        if inner.reading:
            fault = f"{node.this.sql()} is a running total; to add its readings up says nothing."
            return replace(inner, faults=(fault,), hint="Take the difference between the last and the first reading.")
    return inner


def _difference(node: exp.Expr, level: Level, context: ReviewContext) -> Quantity:
    """Days between JULIANDAYs, seconds between epochs; otherwise the unit of both sides."""
    names = {called(n) for n in node.find_all(exp.Anonymous)}
    times = any(is_temporal(r.column) for r in context.statement.refs(node))
    if times and "JULIANDAY" in names:
        return Quantity("days", amount=True)
    if times and ("UNIXEPOCH" in names or any(plain(n) == "%s" for n in node.find_all(exp.Literal))):
        return Quantity("seconds", amount=True)
    left, right = _read(node.this, level, context), _read(node.expression, level, context)
    if left.unit == right.unit:
        return replace(left, reading=False, amount=True) if left.unit else NOTHING
    return NOTHING


def _amount(rate: Quantity, of: Quantity, units: Units) -> tuple[str, float] | None:
    """What a rate comes to for an amount, and how often: EUR per litre; a price, too, that is only said to be EUR."""
    if not rate.rate or of.rate:
        return None
    if units.numerator(rate.unit) is not None:
        return units.amount(rate.unit, of.unit)
    known = units.known(rate.unit)
    return (rate.unit, 1.0) if known is not None and known.exact and not known.rate else None


def _product(node: exp.Expr, level: Level, context: ReviewContext) -> Quantity:
    divides = isinstance(node, exp.Div)
    left_number, right_number = plain(node.this), plain(node.expression)
    if isinstance(right_number, float) and right_number:
        inner = _read(node.this, level, context)
        return replace(inner, factor=inner.factor * (1 / right_number if divides else right_number))
    if isinstance(left_number, float):
        inner = _read(node.expression, level, context)
        return NOTHING if divides else replace(inner, factor=inner.factor * left_number)
    left, right = _read(node.this, level, context), _read(node.expression, level, context)
    faults = left.faults + right.faults
    hint = left.hint or right.hint
    if divides:
        if not right.unit and not faults:
            # Divided by a count or by a bare number: the unit stays, the figure is a mean.
            counted = any(isinstance(n, exp.Count) for n in node.expression.walk())
            return left if counted else NOTHING
        return Quantity(faults=faults, hint=hint)
    for one, other in ((left, right), (right, left)):
        amount = _amount(one, other, context.notes.known_units)
        if amount is not None:
            unit, factor = amount
            return Quantity(unit, amount=True, factor=one.factor * other.factor * factor, faults=faults, hint=hint)
    if left.unit and not right.unit:
        return replace(left, faults=faults)
    if right.unit and not left.unit:
        return replace(right, faults=faults)
    return Quantity(faults=faults, hint=hint)
