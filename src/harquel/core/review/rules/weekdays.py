"""A day of the week is written with the number that the engine gives it.

Bad:  "on Saturdays", SQLite: WHERE strftime('%w', scheduled_departure) = '5'
Good: WHERE strftime('%w', scheduled_departure) = '6'
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import calendar_unit
from harquel.core.review.context import ReviewContext
from harquel.core.review.periods import WEEKDAYS
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import called

CODE = "weekday"


@rule(CODE)
def weekdays(context: ReviewContext) -> list[Finding]:
    """A finding where the question names a day of the week and the query another, or none."""
    wanted = context.question.weekdays
    if not wanted:
        return []
    seen = False
    for condition in context.statement.conditions:
        if calendar_unit(condition.subject, context.statement) != "weekday" or not condition.values:
            continue
        seen = True
        numbers = {_number(condition.subject, day) for day in wanted}
        given = {int(float(v)) for v in condition.values if v is not None and str(v).replace(".", "").isdigit()}
        others = (
            {_number(condition.subject, day) for day in range(7)} - numbers if "weekend" in _text(context) else set()
        )
        if given and not given <= numbers and not (others and given <= others) and condition.op in ("=", "in"):
            days = " and ".join(WEEKDAYS[d].capitalize() for d in wanted)
            right, wrong = (", ".join(map(str, sorted(n))) for n in (numbers, given))
            message = f"{days} is {right} here, not {wrong}."
            return [context.finding(CODE, "error", message, "Compare with that number.", condition.node)]
    if seen or any(
        calendar_unit(g, context.statement) == "weekday" for lv in context.statement.levels for g in lv.groups
    ):
        return []
    days = " and ".join(WEEKDAYS[d].capitalize() for d in wanted)
    return [
        context.finding(
            CODE,
            "error",
            f"The question is about {days}; the query takes every day.",
            "Add a condition on the day of the week.",
        )
    ]


def _text(context: ReviewContext) -> str:
    return context.question.text.casefold()


def _number(node: exp.Expr, day: int) -> int:
    """How the engine's way counts a day; 0 is Monday in what is given."""
    names = {called(n) for n in node.find_all(exp.Anonymous)}
    if "WEEKDAY" in names:
        return day
    extract = node.find(exp.Extract)
    if extract is not None and str(extract.this.this).upper() == "ISODOW":
        return day + 1
    sunday_is_zero = (day + 1) % 7
    return sunday_is_zero + 1 if "DAYOFWEEK" in names else sunday_is_zero
