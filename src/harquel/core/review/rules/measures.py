"""A figure with an agreed definition is computed as agreed.

Bad:  "revenue": SELECT SUM(total_cents) / 100.0 FROM booking
Good: SELECT SUM(b.total_cents) / 100.0 FROM booking b JOIN customer c ON c.id = b.customer_id
      WHERE b.status = 'confirmed' AND NOT c.is_staff
"""

from __future__ import annotations

from types import UnionType

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.domain.notes import Measure
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.known import measure_columns
from harquel.core.review.rules.rule import rule

CODE = "measure-bent"


@rule(CODE)
def measures(context: ReviewContext) -> list[Finding]:
    """One finding for each way in which a measure that the question names is not followed."""
    found = []
    for name, measure in context.measures_asked() or _by_the_way(context):
        if _ready_made(context, name) or _only_by_name(context, name) or _other(context, name, measure):
            continue
        hint = f"{name} is {measure.sql}" + (f" where {measure.where}" if measure.where else "") + "."
        wanted = measure_columns(measure, context.engine, context.catalog)
        function = exp.Sum if measure.sql.upper().startswith("SUM") else None
        if wanted and not wanted <= context.statement.read:
            unread = ", ".join(".".join(w) for w in sorted(wanted - context.statement.read))
            message = f"{name} is made of {unread}; the query does not read that."
            found.append(context.finding(CODE, "error", message, hint))
            continue
        kinds = exp.Sum | exp.Avg if "average" in context.question.has else exp.Sum
        if function is not None and wanted and not _summed(context, wanted, kinds):
            message = f"{name} adds up {', '.join('.'.join(w) for w in sorted(wanted))}; the query does not."
            found.append(context.finding(CODE, "error", message, hint))
        missing = sorted(k for k in context.measure_conditions(measure) - context.said)
        if missing:
            said = ", ".join(f"{t}.{c} {op}{'' if v is None else f' {v!r}'}" for t, c, op, v in missing)
            message = f"{name} counts only rows with {said}; the query takes others as well."
            found.append(context.finding(CODE, "error", message, hint))
        found += _numbers(context, name, measure, hint)
        found += _dated(context, name, measure)
    return found


def _by_the_way(context: ReviewContext) -> list[tuple[str, Measure]]:
    """Measures that the query adds up without the question naming them, or their column: what did we take in?"""
    if context.same_questions:
        return []
    found = []
    for name, measure in context.notes.measures.items():
        if not measure.where or not measure.sql.upper().startswith("SUM"):
            continue
        wanted = measure_columns(measure, context.engine, context.catalog)
        named = {(m.table, m.column) for mention in context.question.mentions if mention.firm and not mention.idle
                 for m in mention.meanings if m.column}  # fmt: skip
        counts = {(t, c) for t, c, _, _ in context.measure_conditions(measure)}
        others = {(m.table, m.column) for mention in context.question.mentions for m in mention.meanings
                  if m.kind in ("code", "value")}  # fmt: skip
        if wanted and not wanted & named and not counts & others and _summed(context, wanted, exp.Sum):
            found.append((name, measure))
    return found


def _other(context: ReviewContext, name: str, measure: Measure) -> bool:
    """Whether its word means something else here: passenger, of passenger capacity."""
    if measure_columns(measure, context.engine, context.catalog) & context.statement.read:
        return False
    mentions = [m for m in context.question.mentions if any(x.measure == name for x in m.meanings)]
    return all(
        any(x.kind == "column" and x.table != measure.of and context.fulfils(x)
            for x in (*m.meanings, *context.parts(context.question.words[m.first].stem)))
        for m in mentions
    )  # fmt: skip


def _only_by_name(context: ReviewContext, name: str) -> bool:
    """Whether a measure without conditions merely counts: there is nothing to bend."""
    measure = context.notes.measures[name]
    return measure.where is None and measure.sql.upper().startswith("COUNT")


def _ready_made(context: ReviewContext, name: str) -> bool:
    """Whether a column that bears the measure's name is read, as on a dashboard."""
    start = name.replace(" ", "_").casefold()
    return any(
        c.casefold() in (start, f"{start}_eur", f"{start}s") or c.casefold().startswith(f"{start}_")
        for _, c in context.statement.read
    )


def _summed(context: ReviewContext, wanted: frozenset[tuple[str, str]], kinds: type[exp.Expr] | UnionType) -> bool:
    return any(
        isinstance(n, kinds) and wanted & {r.key for r, _ in context.statement.deep_refs(n, lv)}
        for lv in context.statement.levels for n in lv.aggregates
    )  # fmt: skip


def _numbers(context: ReviewContext, name: str, measure: Measure, hint: str) -> list[Finding]:
    """Thresholds in a definition: five minutes, written in whichever way."""
    for number in context.numbers_of(measure.sql):
        if not any(context.close(v, number) for v in context.statement.literals):
            message = f"{name} is defined with {number:g}; the query does not use that."
            return [context.finding(CODE, "error", message, hint)]
    return []


def _dated(context: ReviewContext, name: str, measure: Measure) -> list[Finding]:
    if not measure.when:
        return []
    wanted = tuple(measure.when.split(".", 1))
    for window in context.windows:
        keys = {r.key for r in window.refs}
        if keys and wanted not in keys and any(is_temporal(r.column) for r in window.refs):
            message = f"{name} is dated by {measure.when}; the query takes {'.'.join(sorted(keys)[0])}."
            return [context.finding(CODE, "error", message, f"Limit {measure.when}.", window.node)]
    return []
