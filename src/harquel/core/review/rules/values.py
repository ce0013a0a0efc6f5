"""A text that a column is compared with is one that the column holds, written as it is stored.

Bad:  SELECT COUNT(*) FROM sailing WHERE status = 'cancelled'
Good: SELECT COUNT(*) FROM sailing WHERE status = 'X'
"""

from __future__ import annotations

from fnmatch import fnmatchcase

from harquel.core.domain.catalog import Column
from harquel.core.domain.findings import Finding
from harquel.core.domain.notes import ColumnNotes
from harquel.core.language.say import said_as
from harquel.core.nearest import nearest
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition, Plain

CODE = "unknown-value"


@rule(CODE, "wrong-case", "code-by-meaning")
def values(context: ReviewContext) -> list[Finding]:
    """One finding for each text that its column does not hold."""
    found = []
    for condition in context.statement.conditions:
        ref = condition.ref
        if (
            ref is None
            or not condition.bare
            or is_temporal(ref.column)
            or ref.column.kind not in ("text", "boolean", "number")
        ):
            continue
        if condition.op not in ("=", "in", "<>", "not in", "like", "not like"):
            continue
        for value in condition.values:
            if isinstance(value, str):
                found += _check(context, condition, value)
    return found


def _check(context: ReviewContext, condition: Condition, value: str) -> list[Finding]:
    ref = condition.ref
    assert ref is not None
    column, about = ref.column, context.about(*ref.key)
    if column.kind in ("number", "boolean"):
        try:
            float(value)
            return []
        except ValueError:
            message = said_as("caveat-unknown-kind", column=str(ref), kind=column.kind, value=str(value))
            return [
                context.finding(CODE, "error", message, _codes(about) or "Compare it with a number.", condition.node)
            ]
    if context.policy.is_personal(ref.table.name, column):
        return []
    known = [str(v) for v in (*column.options, *column.samples) if v is not None]
    if "like" in condition.op:
        pattern = value.replace("%", "*").replace("_", "?").casefold()
        holds = any(fnmatchcase(k.casefold(), pattern) for k in known)
        return [] if holds or not _complete(column) else [_unknown(context, condition, value, known, about)]
    if value in known:
        return []
    if not _complete(column):
        there = context.holds(ref.table, column, value)
        if there is not False:
            return []
    return [_unknown(context, condition, value, known, about)]


def _complete(column: Column) -> bool:
    return column.complete or bool(column.options)


def _unknown(context: ReviewContext, condition: Condition, value: str, known: list[str], about: ColumnNotes) -> Finding:
    ref = condition.ref
    assert ref is not None
    same = next((k for k in known if k.casefold() == value.casefold()), None)
    if same is not None:
        message = said_as("caveat-wrong-case", column=str(ref), same=str(same), value=str(value))
        return context.finding("wrong-case", "error", message, f"Write '{same}'.", condition.node)
    code = about.code_of(value)
    if code is not None:
        message = said_as("caveat-code-by-meaning", column=str(ref), value=str(value), code=str(code))
        return context.finding("code-by-meaning", "error", message, f"Write '{code}'.", condition.node)
    message = said_as("caveat-unknown-value", column=str(ref), value=str(value))
    if about.null_means and (not value or value.casefold() in about.null_means.casefold().split(", ")):
        return context.finding(
            CODE, "error", message, f"Where it is {about.null_means} it is NULL: write IS NULL.", condition.node
        )
    near = nearest(value, known, 3, alike=0.5)
    hint = f"Nearest: {', '.join(repr(n) for n in near)}." if near else _listed(known)
    return context.finding(CODE, "error", message, hint or _codes(about), condition.node)


def _listed(known: list[Plain] | list[str]) -> str:
    return f"It holds {', '.join(repr(k) for k in known[:8])}." if known else ""


def _codes(about: ColumnNotes) -> str:
    return "It holds " + ", ".join(f"{c} ({said})" for c, said in about.codes.items()) + "." if about.codes else ""
