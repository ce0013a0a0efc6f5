"""Figures are in the unit that is asked for, and converted by the right factor.

Bad:  "in euros": SELECT SUM(total_cents) FROM booking
Good: SELECT SUM(total_cents) / 100.0 FROM booking
"""

from __future__ import annotations

import itertools
import re

from harquel.contract import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.dimensions import Quantity, quantity_of
from harquel.core.review.vocabulary import UNIT_WORDS, UNITS

CODE = "unit"
_BY_NAME = (
    ("EUR", re.compile(r"(?:^|_)(?:eur|euro|euros)(?:_|$)")), ("euro cents", re.compile(r"(?:^|_)cents?$")),
    ("litres", re.compile(r"^(?:total_)?(?:litres|liters)$")), ("minutes", re.compile(r"(?:^|_)(?:min|minutes)$")),
    ("nautical miles", re.compile(r"(?:^|_)nm$")), ("knots", re.compile(r"(?:^|_)kn(?:ots)?$")),
    ("km", re.compile(r"(?:^|_)km$")), ("days", re.compile(r"^(?:average_|avg_|mean_)?days(?:_open)?$")),
    ("hours", re.compile(r"(?:^|_)hours$")), ("m", re.compile(r"_m$")),
)  # fmt: skip


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
    return [*found, *_compared(context)][:2]


def _compared(context: ReviewContext) -> list[Finding]:
    """Numbers of the question with a unit behind them, held against figures in another unit of the kind."""
    found = []
    for number in context.question.numbers:
        behind = [w.text for w in context.question.words[number.word + 1 : number.word + 3]]
        unit = UNITS.get(behind[0]) if behind else None
        if unit is None and len(behind) > 1 and behind[0] in UNIT_WORDS:
            unit = UNITS.get(behind[1])
        for condition in context.statement.conditions:
            if unit is None or number.value not in condition.values:
                continue
            made = quantity_of(condition.subject, condition.level, context)
            if made.unit and made.unit != unit and _kind(made.unit) == _kind(unit):
                message = f"The question says {number.value:g} {unit}; the query compares a figure in {made.unit}."
                found.append(context.finding(CODE, "error", message, _hint(made.unit, unit), condition.node))
    return found


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
