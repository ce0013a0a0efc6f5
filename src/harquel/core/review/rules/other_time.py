"""What has several times is counted by the one that begins it, or by the one that the question names.

Bad:  "orders in August 2026": WHERE due_on >= '2026-08-01' AND due_on < '2026-09-01'
Good: WHERE opened_on >= '2026-08-01' AND opened_on < '2026-09-01'
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.dates import leading_time, time_stems
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Ref, within

CODE = "other-time"


@rule(CODE)
def other_time(context: ReviewContext) -> list[Finding]:
    """One finding for the first time that neither leads its table nor is named where others are."""
    return _limited(context) or _reckoned(context)


def _reckoned(context: ReviewContext) -> list[Finding]:
    """Days before the start are not days before the end."""
    statement, asked = context.statement, context.question.stems
    for level in statement.levels:
        for node in (n for p in level.select.expressions for n in within(p) if isinstance(n, exp.Sub)):
            refs = [r for r in statement.refs(node) if is_temporal(r.column)]
            for ref in refs:
                if asked & set(time_stems(ref.column)):
                    continue
                for other in ref.table.columns:
                    named = asked & set(time_stems(other)) if is_temporal(other) else set()
                    if named and not any(r.column is other for r in refs):
                        message = f"The question speaks of {other.name}; the query reckons with {ref.column.name}."
                        return [context.finding(CODE, "warning", message, f"Take {other.name}.", node)]
    return []


def _limited(context: ReviewContext) -> list[Finding]:
    if not context.question.periods or context.question.measures:
        return []
    for window in context.windows:
        if window.level.role in ("exists", "in"):
            continue
        for ref in window.refs:
            leading = leading_time(ref.table, context.notes)
            if _only_missing(context, ref):
                continue
            if leading is None or leading is ref.column or not is_temporal(ref.column) or _named(context, ref):
                continue
            message = f"{ref.table.name} is dated by {leading.name}; the query takes {ref.column.name}."
            hint = f"Take {leading.name}, unless the question means {ref.column.name}."
            return [context.finding(CODE, "warning", message, hint, window.node)]
    return []


def _only_missing(context: ReviewContext, ref: Ref) -> bool:
    """Whether it is only asked whether there is such a time."""
    told = [c for c in context.statement.conditions if c.ref is not None and c.ref.key == ref.key]
    return bool(told) and all(c.op in ("is null", "is not null") for c in told)


def _named(context: ReviewContext, ref: Ref) -> bool:
    """Whether some word of the question belongs to a time, or both its times are looked at."""
    known = {w.stem for w in context.question.words} | context.vouched_words
    about = context.about(*ref.key)
    said = set(time_stems(ref.column)) | {w for s in about.synonyms for w in s.split()}
    if said & known or any(context.meanings.near(w) and _near(context, w, ref) for w in known):
        return True
    leading = leading_time(ref.table, context.notes)
    return leading is not None and any(leading.name == r.column.name for w in context.windows for r in w.refs)


def _near(context: ReviewContext, word: str, ref: Ref) -> bool:
    return any(m.kind in ("column", "remark") and (m.table, m.column) == ref.key for m in context.meanings.near(word))
