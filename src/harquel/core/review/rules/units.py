"""Figures are in the unit that is asked for, and converted by the right factor.

Bad:  "in euros": SELECT SUM(total_cents) FROM booking
Good: SELECT SUM(total_cents) / 100.0 FROM booking
"""

from __future__ import annotations

import itertools
import re

from sqlglot import exp

from harquel.core.domain.catalog import Table
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.dimensions import CONVERSIONS, MONEY_UNITS, Quantity, quantity_of
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Plain
from harquel.core.review.vocabulary import MONEY, UNIT_WORDS, UNITS

CODE = "unit"
_BY_NAME = (
    ("EUR", re.compile(r"(?:^|_)(?:eur|euro|euros)(?:_|$)")), ("euro cents", re.compile(r"(?:^|_)cents?$")),
    ("litres", re.compile(r"^(?:total_)?(?:litres|liters)$")), ("minutes", re.compile(r"(?:^|_)(?:min|minutes)$")),
    ("nautical miles", re.compile(r"(?:^|_)nm$")), ("knots", re.compile(r"(?:^|_)kn(?:ots)?$")),
    ("km", re.compile(r"(?:^|_)km$")), ("days", re.compile(r"^(?:average_|avg_|mean_)?days(?:_open)?$")),
    ("hours", re.compile(r"(?:^|_)hours$")), ("m", re.compile(r"_m$")),
)  # fmt: skip


@rule(CODE, "rate-added-up")
def units(context: ReviewContext) -> list[Finding]:
    """One finding for each figure in another unit than asked for, wrongly converted, or a rate that was added up."""
    found: list[Finding] = []
    outer = context.statement.outer
    for projection in outer.select.expressions:
        node = projection.unalias()
        made = quantity_of(node, outer, context)
        for fault in made.faults:
            found.append(context.finding("rate-added-up" if "add" in fault else CODE, "error", fault, made.hint, node))
        named = _by_name(projection.alias_or_name)
        wanted = named or _asked(context, made)
        if made.faults or not made.unit or not wanted or wanted == made.unit:
            continue
        if made.scale_unknown or _kind(wanted) != _kind(made.unit) or wanted != made.unit:
            message = f"The figure is in {made.unit}; " + (
                f"it is called {projection.alias_or_name}." if named else f"the question asks for {wanted}."
            )
            found.append(context.finding(CODE, "error", message, _hint(made.unit, wanted), node))
    return [*found, *_compared(context), *_no_number(context), *_no_money(context)][:2]


def _no_money(context: ReviewContext) -> list[Finding]:
    """Where an amount of money is wanted and nothing else, a number of rows is none."""
    words = [w.text for w in context.question.words]
    asked = any(b == "in" and UNITS.get(w) in MONEY_UNITS for b, w in itertools.pairwise(words))
    outer = context.statement.outer
    figures = [p for p in outer.select.expressions if p.find(exp.AggFunc)]
    if not asked or not figures or not all(isinstance(p.unalias(), exp.Count) for p in figures):
        return []
    message = "The question asks for money; the query counts."
    return [context.finding(CODE, "error", message, "Add up the amounts.", figures[0].unalias())]


def _no_number(context: ReviewContext) -> list[Finding]:
    """Where a number of things is wanted and nothing else, an amount of money is none."""
    question, outer = context.question, context.statement.outer
    money = {"how much"} & question.has or question.units or MONEY & {w.text for w in question.words}
    if "how many" not in question.has or money or any(m.unit in MONEY_UNITS for _, m in context.measures_asked()):
        return []
    figures = [p.unalias() for p in outer.select.expressions if p.find(exp.AggFunc)]
    made = [quantity_of(f, outer, context).unit for f in figures]
    if not made or not set(made) <= set(MONEY_UNITS):
        return []
    message = f"The question asks how many; the figure is in {made[0]}."
    return [context.finding(CODE, "error", message, "Count, or add up how many there are.", figures[0])]


def _compared(context: ReviewContext) -> list[Finding]:
    """Numbers of the question with a unit behind them, held against figures in another unit of the kind."""
    found = []
    for number in context.question.numbers:
        behind = [w.text for w in context.question.words[number.word + 1 : number.word + 3]]
        unit = UNITS.get(behind[0]) if behind else None
        if unit is None and len(behind) > 1 and behind[0] in UNIT_WORDS:
            unit = UNITS.get(behind[1])
        for condition in context.statement.conditions if unit is not None else ():
            value = next((v for v in condition.values if context.is_number(v, number)), None)
            if value is None or unit is None:
                continue
            made = quantity_of(condition.subject, condition.level, context)
            message = f"The question says {number.value:g} {unit}; the query compares "
            if not made.unit and condition.ref is not None and _in_unit(context, condition.ref.table, unit):
                message += f"{condition.ref}, which is not in that unit."
                found.append(context.finding(CODE, "error", message, f"Compare what is in {unit}.", condition.node))
            elif made.unit and _kind(made.unit) == _kind(unit) and not _comes_to(value, number.value, unit, made.unit):
                message += f"a figure in {made.unit} with {value:g}."
                found.append(context.finding(CODE, "error", message, _hint(made.unit, unit), condition.node))
    return found


def _in_unit(context: ReviewContext, table: Table, unit: str) -> bool:
    """Whether a table has figures in that unit."""
    return any(context.about(table.name, c.name).unit == unit for c in table.columns)


def _comes_to(value: Plain, number: float, unit: str, other: str) -> bool:
    """Whether a literal is so many of a unit, said in another one of its kind; so, too, where nobody knows how many."""
    if unit == other:
        factors = [1.0]
    else:
        factors = [f for (u, f), into in CONVERSIONS.items() if (u, into) == (unit, other)]
        factors += [1 / f for (u, f), into in CONVERSIONS.items() if (u, into) == (other, unit)]
    return not factors or any(abs(float(value or 0) - number * f) <= 1e-6 * abs(number * f) for f in factors)


def _by_name(name: str) -> str | None:
    return next((unit for unit, pattern in _BY_NAME if pattern.search(name.casefold())), None)


def _asked(context: ReviewContext, made: Quantity) -> str | None:
    """The unit that the question asks for this kind of figure: said outright, or by the measure."""
    words = [w.text for w in context.question.words]
    for before, word in itertools.pairwise(words):
        unit = UNITS.get(word)
        if unit is not None and before == "in" and (_kind(unit) == _kind(made.unit or "") or made.amount):
            return unit
    first = UNITS.get(words[0]) if words else None
    if first is not None and made.amount and first in ("litres", "EUR", "euro cents"):
        return first
    for _, measure in context.measures_asked():
        if measure.unit and made.amount and _kind(measure.unit) == _kind(made.unit or ""):
            return measure.unit
    return None


_KINDS = {
    "EUR": "money", "euro cents": "money", "minutes": "time", "hours": "time", "days": "time", "seconds": "time",
    "km": "length", "nautical miles": "length", "m": "length", "litres": "volume", "m³": "volume",
    "knots": "speed", "km/h": "speed",
}  # fmt: skip


def _kind(unit: str) -> str:
    return _KINDS.get(unit, unit)


def _hint(have: str, want: str) -> str:
    if (have, want) == ("euro cents", "EUR"):
        return "Divide by 100.0."
    return f"Give it in {want}."
