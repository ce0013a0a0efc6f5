"""Where one column is compared with another, the comparison points the way that the question does.

Bad:  "closed later than opened": WHERE closed_on < opened_on
Good: WHERE closed_on > opened_on
"""

from __future__ import annotations

import re

from sqlglot import exp

from harquel.core.briefing.words import fold, name_stems, stem
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition, Ref
from harquel.core.review.vocabulary import DEADLINES

CODE = "turned-between-columns"
_MORE = r"(?:later|longer|higher|greater|larger|bigger|more|older) than|after|above|over|beyond|exceed(?:s|ed|ing)?"
_LESS = r"(?:earlier|shorter|lower|smaller|less|fewer|younger) than|before|below|under|beneath"
_WORDS = re.compile(rf"\b(?:(?P<more>{_MORE})|(?P<less>{_LESS}))\b")
_SPAN = 4
"""Words after which a column that is named no longer belongs to the comparison."""
_LATE = re.compile(r"\b(?:late|overdue|delayed|behind schedule)\b")
_IN_TIME = re.compile(r"\b(?:early|on time|in time|punctual(?:ly)?|ahead of (?:time|schedule))\b")
_FITS = re.compile(r"\b(?:takes?|fits?|holds?|accommodates?|suits?|room for|enough for|moor|berth)\b")
_BEFORE = re.compile(r"\b(?:seconds?|minutes?|hours?|days?|weeks?|months?) (?:before|ahead of) (?:the |its |their )?")
_MOST = frozenset(map(stem, "max maximum capacity limit".split()))
_FLIPPED = {"<": ">", ">": "<", "<=": ">=", ">=": "<="}


@rule(CODE)
def compared_columns(context: ReviewContext) -> list[Finding]:
    """One finding for each comparison between columns that is turned round."""
    found = []
    between = [
        c for c in context.statement.conditions
        if c.op in _FLIPPED and c.bare and c.ref is not None and _core(context, c.other) is not None
    ]  # fmt: skip
    for condition in between:
        wanted = [(_against(context, condition, said), more) for said, more in _comparisons(context)]
        for op, more in [*wanted, *_lateness(context, condition), *_room(context, condition)]:
            if op is not None and (op in (">", ">=")) is not more:
                right = _FLIPPED[condition.op]
                message = f"The question compares the other way than {condition.node.sql(comments=False)}."
                found.append(context.finding(CODE, "error", message, f"Write {right}.", condition.node))
                break
    return found + _ahead(context)


def _ahead(context: ReviewContext) -> list[Finding]:
    """How long before something is the time of that less the earlier one."""
    match = _BEFORE.search(fold(context.question.text))
    if match is None:
        return []
    behind = [i for i, w in enumerate(context.question.words) if w.start >= match.end()][:2]
    meant = {
        (m.table, m.column)
        for mention in context.question.mentions if mention.first in behind
        for m in (*mention.meanings, *context.parts(context.question.words[mention.first].stem)) if m.kind == "column"
    }  # fmt: skip
    for condition in context.statement.conditions:
        subject = condition.subject
        if not isinstance(subject, exp.Sub) or condition.op not in _FLIPPED:
            continue
        later, earlier = ([r.key for r in context.statement.refs(s)] for s in (subject.this, subject.expression))
        if meant & set(earlier) and later and not meant & set(later):
            message = f"{subject.sql(comments=False)} is below zero: the later time is taken from the earlier one."
            return [context.finding(CODE, "error", message, "Turn the difference round.", condition.node)]
    return []


def _core(context: ReviewContext, node: exp.Expr | None) -> Ref | None:
    """The one column that a side is, bare, moved by a span of time, or looked up by a query of its own."""
    if isinstance(node, exp.Subquery) and isinstance(node.this, exp.Select) and len(node.this.expressions) == 1:
        return context.statement.ref(node.this.expressions[0].unalias())
    refs = {r.key: r for r in context.statement.refs(node)} if node is not None else {}
    return next(iter(refs.values())) if len(refs) == 1 else None


def _room(context: ReviewContext, condition: Condition) -> list[tuple[str, bool]]:
    """What fits is at most as large as what there is room for."""
    here, there = condition.ref, _core(context, condition.other)
    if here is None or there is None or "not" in context.question.has or not _FITS.search(fold(context.question.text)):
        return []
    most = [bool(_MOST & set(name_stems(r.column.name))) for r in (here, there)]
    if most[0] is most[1]:
        return []
    return [(condition.op if most[0] else _FLIPPED[condition.op], True)]


def _comparisons(context: ReviewContext) -> list[tuple[set[tuple[str, str]], bool]]:
    """For each comparing word the columns that may be meant behind it, and whether it means more."""
    question, found = context.question, []
    for match in _WORDS.finditer(fold(question.text)):
        behind = [i for i, w in enumerate(question.words) if w.start >= match.end()][:_SPAN]
        if behind and any(n.word == behind[0] for n in question.numbers):
            continue  # over 1000: a number is what is compared
        meant = {
            (m.table, m.column)
            for mention in question.mentions if mention.first in behind
            for m in (*mention.meanings, *context.parts(question.words[mention.first].stem)) if m.kind == "column"
        }  # fmt: skip
        if meant:
            found.append((meant, match.group("more") is not None))
    return found


def _lateness(context: ReviewContext, condition: Condition) -> list[tuple[str, bool]]:
    """Late is after the time that was meant, early is before it: how the comparison stands, and how it should."""
    text = fold(context.question.text)
    late, early = _LATE.search(text) is not None, _IN_TIME.search(text) is not None
    here, there = condition.ref, _core(context, condition.other)
    if late is early or "not" in context.question.has or condition.place == "case" or here is None or there is None:
        return []
    meant = [bool(DEADLINES & set(name_stems(r.column.name))) for r in (here, there)]
    if meant[0] is meant[1]:
        return []
    return [(_FLIPPED[condition.op] if meant[0] else condition.op, late)]


def _against(context: ReviewContext, condition: Condition, meant: set[tuple[str, str]]) -> str | None:
    """The operator as seen from the column that is compared with the one that is meant; None where neither is it."""
    here, there = condition.ref, _core(context, condition.other)
    if here is None or there is None or here.key == there.key or {here.key, there.key} <= meant:
        return None
    if there.key in meant:
        return condition.op
    return _FLIPPED[condition.op] if here.key in meant else None
