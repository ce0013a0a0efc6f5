"""A number of the question stands in the query, and on the side that the question means.

Bad:  "open for more than 30 days": WHERE opened_on > '2026-08-15'
Good: WHERE opened_on < '2026-08-15'
"""

from __future__ import annotations

import datetime as dt
import re

from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.periods import shifted
from harquel.core.review.question import Number, Question
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition, Plain
from harquel.core.review.times import moment_of

CODE = "number-left-out"
_SIDES = {
    "more": {">"}, "at least": {">=", ">", "in", "between"}, "less": {"<"}, "at most": {"<=", "<", "in", "between"},
    "": {"=", "in", ">=", "<=", "between", ">", "<"},
}  # fmt: skip
_OLDEST = 1000
_TURNED = {"<": ">", ">": "<", "<=": ">=", ">=": "<="}


@rule(CODE, "bound", "comparison-turned")
def numbers(context: ReviewContext) -> list[Finding]:
    """Findings on numbers that are missing and comparisons that are turned round."""
    found = []
    if "several" in context.question.has and not any(_beyond_one(c) for c in context.statement.conditions):
        message = "The question asks for several; the query does not ask for more than one."
        found.append(context.finding(CODE, "warning", message, "Add HAVING COUNT(*) > 1."))
    for time in context.question.clock_times:
        if not any(isinstance(v, str) and time in v for v in context.statement.literals):
            message = f"The question says {time}; the query does not."
            found.append(context.finding(CODE, "warning", message, f"Compare the time of day with '{time}'."))
    for number in context.question.numbers:
        if (number.value == context.question.top and not number.sense) or _all_of(context.question, number):
            continue
        compared = [(c, v) for c in context.statement.conditions for v in c.values if context.is_number(v, number)]
        aged = [c for c in context.statement.conditions if _age(context, c, number)]
        if not compared and not aged:
            if not any(context.is_number(v, number) or _in_text(v, number) for v in context.statement.literals):
                message = f"The question says {number.value:g}; the query does not."
                word = context.question.words[number.word]
                # It may belong to the time beside it, which was read without it.
                beside = not number.sense and context.question.beside_time(word.start, word.end)
                found.append(
                    context.finding(
                        CODE, "info" if beside else "error", message, f"Use {number.value:g} as the question does."
                    )
                )
            continue
        found += [f for c, v in compared for f in _side(context, c, v, number)][:1]
        found += [f for c in aged for f in _aged(context, c, number)][:1]
    return found


def _beyond_one(condition: Condition) -> bool:
    """Whether it lets through what is more than one, and one itself not."""
    at = condition.values[0] if condition.values else None
    return (at == 1 and condition.op in (">", "<>", "!=")) or (at == 2 and condition.op in (">=", ">", "="))


def _all_of(question: Question, number: Number) -> bool:
    """Whether it says how many there are of a thing: of the six vessels."""
    before = question.words[number.word - 1].text if number.word else ""
    things = [m for m in question.mentions if m.first == number.word + 1 and any(x.kind == "table" for x in m.meanings)]
    whole = before == "all" or question.text.casefold()[: question.words[number.word].start].rstrip().endswith(
        ("of the", "of our", "of its", "of their")
    )
    return bool(things) and whole and not question.superlatives


def _side(context: ReviewContext, condition: Condition, value: Plain, number: Number) -> list[Finding]:
    if not number.sense or condition.op not in (*_TURNED, "="):
        return []
    # What is exactly so many is not more, nor less; a code is compared with what it is.
    if condition.op == "=" and (number.sense not in ("more", "less") or isinstance(value, str)):
        return []
    wanted = _SIDES[number.sense]
    # Above 3 is the same as at least 4 among whole numbers, but above 4 is not.
    strictly = number.sense in ("at least", "at most") and condition.op in ("<", ">") and value == number.value
    if condition.op in wanted and not strictly:
        return []
    said = {"more": "more than", "less": "less than"}.get(number.sense, number.sense)
    message = f"The question says {said} {number.value:g}; the query compares with {condition.op}."
    strict = {"more": ">", "at least": ">=", "less": "<", "at most": "<="}[number.sense]
    if (
        {condition.op, strict} in ({">", ">="}, {"<", "<="})
        and number.sense in ("more", "less")
        and not isinstance(value, str)
    ):
        return [context.finding("bound", "warning", message, f"Write {strict}.", condition.node)]
    return [context.finding("comparison-turned", "error", message, f"Write {strict}.", condition.node)]


def _age(context: ReviewContext, condition: Condition, number: Number) -> bool:
    """Whether a time is compared with the instant that lies as many days back as the question says."""
    if condition.ref is None or not is_temporal(condition.ref.column) or condition.op not in _TURNED:
        return False
    node = condition.node.args.get("expression") if condition.node is not None else None
    at = moment_of(node) if node is not None else None
    if at is None:
        return False
    now, count = context.question.now.replace(tzinfo=None), int(number.value)
    if count != number.value or count > _OLDEST:
        return False
    return any(
        abs(shifted(now, unit, -count) - at) <= dt.timedelta(days=1.5) for unit in ("day", "week", "month", "year")
    )


def _aged(context: ReviewContext, condition: Condition, number: Number) -> list[Finding]:
    older = number.sense in ("more", "at least", "")
    if (condition.op in ("<", "<=")) is older:
        return []
    message = f"What is older than {number.value:g} began before that day, what is younger after it; this is turned."
    return [context.finding("comparison-turned", "error", message, "Turn the comparison round.", condition.node)]


def _in_text(value: Plain, number: Number) -> bool:
    return isinstance(value, str) and re.search(rf"(?<!\d){number.value:g}(?!\d)", value) is not None
