"""The unit of an expression, carried from the notes through sums, products and conversions."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Final

from sqlglot import exp

from harquel.core.domain.units import Units
from harquel.core.review.calendar import is_temporal
from harquel.core.review.statement import Level, called, plain

if TYPE_CHECKING:
    from harquel.core.review.context import ReviewContext

UNIT: Final = "unit"
ADDED_UP: Final = "rate-added-up"
_SAME: Final = (exp.Nullif, exp.Paren, exp.Cast, exp.Abs, exp.Neg, exp.Coalesce, exp.Window, exp.Filter, exp.Distinct)
_ROUNDING: Final = frozenset("NULLIF ROUND IFNULL TRUNC TRUNCATE FLOOR CEIL CEILING TOTAL NVL".split())


@dataclass(frozen=True)
class Quantity:
    """`unit` is empty where nothing is known. `rate`: so much for one of something else. `sums`: it may be added up."""

    unit: str = ""
    rate: bool = False
    sums: bool = True
    factor: float = 1.0
    """What it was multiplied by since its unit was certain."""
    faults: tuple[tuple[str, str], ...] = field(default=())
    """Codes of findings, with what is wrong."""
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
        return replace(made, faults=(*made.faults, (UNIT, fault)), hint=units.said(made.unit) or made.hint)
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
        ends = (_read(branch.args["true"], level, context) for branch in node.args["ifs"])
        return next((end for end in ends if end.unit), NOTHING)
    if isinstance(node, exp.Subquery):
        inner = next((lv for lv in context.statement.levels if lv.select is node.find(exp.Select)), None)
        return _read(inner.select.expressions[0].unalias(), inner, context) if inner is not None else NOTHING
    return _computed(node, level, context)


def _computed(node: exp.Expr, level: Level, context: ReviewContext) -> Quantity:
    """What sums, differences, products and quotients measure."""
    if isinstance(node, exp.Sub):
        return _difference(node, level, context)
    if isinstance(node, exp.Add):
        left, right = _read(node.this, level, context), _read(node.expression, level, context)
        return left if left.unit == right.unit else NOTHING
    return _product(node, level, context) if isinstance(node, exp.Mul | exp.Div) else NOTHING


def _through(node: exp.Column, level: Level, context: ReviewContext) -> Quantity:
    """What a column of a subquery measures: the expression behind it."""
    source, where = context.statement.origin(node, level)
    return _read(source, where, context) if source is not node else NOTHING


def _column(node: exp.Column, level: Level, context: ReviewContext) -> Quantity:
    ref = context.statement.ref(node)
    if ref is None:
        return context.statement.once("quantity", node, level, NOTHING, lambda: _through(node, level, context))
    about = context.about(*ref.key)
    units, unit = context.notes.known_units, about.unit or ""
    known = units.known(unit)
    rate = units.numerator(unit) is not None or (known is not None and known.rate)
    return Quantity(unit, rate=rate, sums=about.adds_up)


def _aggregate(node: exp.Expr, level: Level, context: ReviewContext) -> Quantity:
    inner = _read(node.this, level, context) if isinstance(node.this, exp.Expr) else NOTHING
    if isinstance(node, exp.Sum) and isinstance(node.this, exp.Column):
        if inner.rate:
            fault = f"{node.this.sql()} is a rate; adding rates up says nothing."
            return replace(inner, faults=((ADDED_UP, fault),), hint="Average it, or multiply it by its amount first.")
        if not inner.sums:
            fault = f"{node.this.sql()} does not add up, by the notes: a sum of its figures says nothing."
            hint = "Average it, or take its difference between the last and the first."
            return replace(inner, faults=((ADDED_UP, fault),), hint=hint)
    return inner


def _difference(node: exp.Expr, level: Level, context: ReviewContext) -> Quantity:
    """Days between JULIANDAYs, seconds between epochs; otherwise the unit of both sides."""
    names = {called(n) for n in node.find_all(exp.Anonymous)}
    times = any(is_temporal(r.column) for r in context.statement.refs(node))
    if times and "JULIANDAY" in names:
        return Quantity("days")
    if times and ("UNIXEPOCH" in names or any(plain(n) == "%s" for n in node.find_all(exp.Literal))):
        return Quantity("seconds")
    left, right = _read(node.this, level, context), _read(node.expression, level, context)
    if left.unit == right.unit:
        return replace(left, sums=True) if left.unit else NOTHING
    return NOTHING


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
        amount = context.notes.known_units.amount(one.unit, other.unit) if one.rate and not other.rate else None
        if amount is not None:
            unit, factor = amount
            return Quantity(unit, factor=one.factor * other.factor * factor, faults=faults, hint=hint)
    if left.unit and not right.unit:
        return replace(left, faults=faults)
    if right.unit and not left.unit:
        return replace(right, faults=faults)
    return Quantity(faults=faults, hint=hint)
