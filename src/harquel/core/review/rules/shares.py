"""A share is divided by the whole that the question means, under the same conditions.

Bad:  SELECT channel, 100.0 * COUNT(*) / (SELECT COUNT(*) FROM booking) FROM booking WHERE booked_at >= '2026-04-01' …
Good: … / (SELECT COUNT(*) FROM booking WHERE booked_at >= '2026-04-01' …)
"""

from __future__ import annotations

import re

from sqlglot import exp

from harquel.core.briefing.meanings import Meaning
from harquel.core.briefing.words import fold
from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.known import known_of, same_value
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition, called, is_aggregate

CODE = "wrong-whole"
_IS = re.compile(r"\b(?:share|percent|percentage|proportion|fraction) of\b.*?\b(?:was|were|is|are|got|get|been)\b")

_AMONG = re.compile(
    r"\b(?:share|percent|percentage|proportion|fraction) of (?P<part>.+?) (?:among|amongst|within|out of) (?P<whole>.+)"
)


@rule(CODE, "no-share")
def shares(context: ReviewContext) -> list[Finding]:
    """Findings on shares that are counts, and on shares of another whole."""
    found: list[Finding] = []
    levels = context.statement.levels
    if "share" in context.question.has and not _any_share(context) and not _averages_a_flag(context):
        message = "The question asks for a share; the query divides by nothing."
        found.append(context.finding("no-share", "error", message, "Divide by the whole."))
    elif _rate(context) and not _any_share(context) and all(map(_counts, context.statement.outer.aggregates)):
        message = "The question asks for a rate; the query only counts."
        found.append(context.finding("no-share", "warning", message, "Divide by the whole."))
    outer = context.statement.outer
    part = _part_as_whole(context)
    if part is not None:
        message = f"The share is of all; the query takes only rows with {part.node.sql(comments=False)} for the whole."
        found.append(context.finding(CODE, "error", message, "Put what is asked about into the part.", part.node))
    among = _among(context)
    if among is not None:
        return [*found, among]
    for level in levels:
        if level.role != "scalar" or level.parent is not outer or not isinstance(_parent(level.select), exp.Div):
            continue
        times = {r.key for c in outer.conditions if c.ref and is_temporal(c.ref.column) for r in (c.ref,)}
        inside = {c.ref.key for c in level.conditions if c.ref is not None}
        correlated = any(c.other is not None for c in level.conditions)
        missing = sorted(
            t for t in times if t not in inside and t[0] in {p.table.name for p in level.parts.values() if p.table}
        )
        if missing and not correlated:
            message = (
                f"The whole is counted over all times; the part only where {missing[0][0]}.{missing[0][1]} is limited."
            )
            found.append(context.finding(CODE, "error", message, "Give the whole the same limit.", level.select))
            continue
        extra = {k for c in level.conditions for k in known_of(c)} - {k for c in outer.conditions for k in known_of(c)}
        if extra and not correlated and "is not null" in {k[2] for k in extra}:
            message = "The whole leaves out rows that the part may hold."
            found.append(context.finding(CODE, "warning", message, "Count the whole over the same rows.", level.select))
    return found


def _part_as_whole(context: ReviewContext) -> Condition | None:
    """A condition on all rows that says what the share is: of the crossings, what share *was cancelled*."""
    question, outer = context.question, context.statement.outer
    said = _IS.search(fold(question.text))
    if said is None:
        return None
    asked = {
        (m.table, m.column, m.value)
        for mention in question.mentions if question.words[mention.first].start >= said.end()
        for m in mention.meanings if m.kind in ("code", "value") and _is_state(context, m)
    }  # fmt: skip
    return next(
        (c for c in outer.conditions
         if c.place == "where" and not c.either and c.op in ("=", "in") and _says(c, asked)), None,
    )  # fmt: skip


def _among(context: ReviewContext) -> Finding | None:
    """What share of these is that: the whole is "these", all of them; the part is what of them is "that"."""
    match = _AMONG.search(fold(context.question.text))
    if match is None:
        return None
    part, whole = _said_in(context, *match.span("part")), _said_in(context, *match.span("whole"))
    outer = context.statement.outer
    bounds = [c for c in outer.conditions if c.place in ("where", "on") and not c.either]
    wholes = [lv for lv in context.statement.levels if lv.role == "scalar" and isinstance(_parent(lv.select), exp.Div)]
    narrowed = next((c for c in bounds if _says(c, part)), None)
    if narrowed is not None and not wholes:
        message = f"The whole is narrowed to {narrowed.node.sql(comments=False)}, which is the part."
        return context.finding(CODE, "error", message, "Count the part with CASE.", narrowed.node)
    loose = next((lv for lv in wholes if whole and not any(_says(c, whole) for c in lv.conditions)), None)
    if loose is not None:
        message = f"The whole is {match.group('whole').strip(' ?.')}; the query divides by more than those."
        return context.finding(CODE, "error", message, "Give the whole that condition, too.", loose.select)
    if whole and not wholes and not any(_says(c, whole) for c in bounds):
        message = f"The whole is {match.group('whole').strip(' ?.')}; the query does not limit the rows to those."
        return context.finding(CODE, "error", message, "Put that condition into WHERE.")
    return None


def _said_in(context: ReviewContext, start: int, end: int) -> set[tuple[str, str, str]]:
    """The codes and values that the words of a stretch of the question stand for."""
    words = context.question.words
    return {
        (m.table, m.column, m.value)
        for mention in context.question.mentions if start <= words[mention.first].start < end
        for m in mention.meanings if m.kind in ("code", "value")
    }  # fmt: skip


def _says(condition: Condition, meant: set[tuple[str, str, str]]) -> bool:
    return condition.ref is not None and any(
        condition.ref.key == (t, n) and any(same_value(v, value) for v in condition.values) for t, n, value in meant
    )


def _is_state(context: ReviewContext, meaning: Meaning) -> bool:
    """Whether it says what became of a thing: one of few values that the notes explain."""
    about = context.about(meaning.table, meaning.column)
    return meaning.value in about.codes


def _rate(context: ReviewContext) -> bool:
    """Whether a rate is asked for that is no column and no measure of the source: then it is a part of a whole."""
    question = context.question
    at = [i for i, word in enumerate(question.words) if word.text in ("rate", "rates")]
    named = {i for m in question.mentions for i in range(m.first, m.last + 1)}
    return bool(set(at) - named) and bool(context.statement.outer.aggregates)


def _counts(node: exp.Expr) -> bool:
    """Whether an aggregate only says how many there are: of all rows, or of those of a kind."""
    return isinstance(node, exp.Count) or (isinstance(node, exp.Sum) and isinstance(node.this.unnest(), exp.Case))


def _any_share(context: ReviewContext) -> bool:
    for level in context.statement.levels:
        for projection in level.select.expressions:
            for node in projection.walk():
                if isinstance(node, exp.Div):
                    return True
                if isinstance(node, exp.Avg) and (
                    node.find(exp.Case) or any(isinstance(node.this, k) for k in (exp.EQ, exp.Predicate))
                ):
                    return True
                if isinstance(node, exp.Window) and is_aggregate(node.this):
                    return True
    return False


def _averages_a_flag(context: ReviewContext) -> bool:
    """The average of yes and no is the share of yes."""
    return any(
        isinstance(n, exp.Avg) and (r := context.statement.ref(n.this)) is not None and r.column.kind == "boolean"
        for level in context.statement.levels for n in level.aggregates
    )  # fmt: skip


def _parent(node: exp.Expr) -> exp.Expr | None:
    parent = node.parent
    between = (exp.Subquery, exp.Paren, exp.Mul, exp.Cast, exp.Nullif)
    while parent is not None and (isinstance(parent, between) or called(parent) == "NULLIF"):
        parent = parent.parent
    return parent
