"""Looks at what came back: nothing, only nulls, less than there was, or figures that cannot be."""

from __future__ import annotations

import re
from dataclasses import replace

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.domain.result import Result
from harquel.core.language.say import said_as
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.statement import within

_SLACK = 1e-6


def review_result(result: Result, context: ReviewContext | None = None) -> list[Finding]:
    """Findings on a result; with the statement as read also on what its figures say."""
    findings = []
    if result.cut_by is not None:
        findings.append(
            _finding(
                "result-cut",
                said_as("caveat-result-cut", by=result.cut_by, rows=f"{len(result.rows):,}"),
                "Ask for a total, a narrower period or the top few.",
            )
        )
    if not result.rows:
        findings.append(
            _finding(
                "result-empty",
                said_as("caveat-result-empty"),
                "Compare the conditions in the SQL with what you meant.",
            )
        )
    elif all(value is None for row in result.rows for value in row):
        findings.append(
            _finding(
                "result-all-null",
                said_as("caveat-result-all-null"),
                "Check that the times and names in the SQL are in the data.",
            )
        )
    elif context is not None:
        findings += _figures(result, context)
    return findings


def _figures(result: Result, context: ReviewContext) -> list[Finding]:
    found = []
    outer = context.statement.outer
    if not outer.aggregates and len(outer.parts) > 1 and len({repr(r) for r in result.rows}) < len(result.rows):
        message = said_as("caveat-result-repeats")
        repeats = _finding("result-repeats", message, "A join may repeat them.")
        if _alike_by_chance(context):
            message = said_as("caveat-result-alike")
            repeats = replace(repeats, severity="info", message=message)
        found.append(repeats)
    projections = outer.select.expressions
    if len(projections) != len(result.columns):
        return found
    found += _without_a_name(result, context)
    for number, (name, projection) in enumerate(zip(result.columns, projections, strict=True)):
        numbers = [v for r in result.rows if (v := _number(r[number])) is not None]
        if numbers:
            found += _column(context, name, projection.unalias(), numbers)
    return found


def refuted(findings: list[Finding], context: ReviewContext, result: Result) -> list[Finding]:
    """Findings on a draft, without weight where its rows show that they do not hold.

    NOT IN lets nothing through once a value inside is empty: where it lets something through, none is.
    """
    outer = context.statement.outer
    where = outer.select.args.get("where")
    ands = _all_of(where.this) if where is not None else []
    without = [n for n in context.statement.tree.find_all(exp.Not) if _in_query(n)]
    # Rows of another branch, and the one row that figures of nothing make, show nothing.
    alone = isinstance(context.statement.tree, exp.Select) and (outer.groups or not outer.aggregates)
    let_through = result.rows if alone else _counted(context, result)
    if not let_through or not all(any(n is a for a in ands) for n in without):
        return findings
    return [replace(f, severity="info") if f.rule == "not-in-nullable" else f for f in findings]


def _counted(context: ReviewContext, result: Result) -> bool:
    """Whether one row counts rows, and more than none."""
    counts = [n for n, p in enumerate(context.statement.outer.select.expressions) if isinstance(p.unalias(), exp.Count)]
    whole = isinstance(context.statement.tree, exp.Select) and len(result.rows) == 1
    return whole and any(n < len(result.rows[0]) and (_number(result.rows[0][n]) or 0) > 0 for n in counts)


def _all_of(test: exp.Expr) -> list[exp.Expr]:
    """The tests of which each must hold."""
    test = test.unnest()
    return [*_all_of(test.this), *_all_of(test.expression)] if isinstance(test, exp.And) else [test]


def _in_query(node: exp.Not) -> bool:
    inner = node.this.unnest()
    return isinstance(inner, exp.In) and inner.args.get("query") is not None


def _without_a_name(result: Result, context: ReviewContext) -> list[Finding]:
    """Rows without a value that make a group of their own, which no note explains."""
    outer = context.statement.outer
    for number, projection in enumerate(outer.select.expressions):
        node = projection.unalias()
        ref = context.statement.ref(node)
        if ref is None or not any(node == g or context.statement.ref(g) == ref for g in outer.groups):
            continue
        if not context.about(*ref.key).null_means and any(row[number] is None for row in result.rows):
            name = result.columns[number].replace("_", " ")
            message = said_as("caveat-result-unnamed", name=name, column=str(ref))
            return [_finding("result-unnamed", message, "Leave them out, or say what an empty one means in the notes.")]
    return []


def _alike_by_chance(context: ReviewContext) -> bool:
    """Whether each row shown is another row of one table, which nothing in the query repeats."""
    outer = context.statement.outer
    grain = context.grain(outer)
    shown = {
        alias for p in outer.select.expressions for n in within(p) if isinstance(n, exp.Column)
        for alias, part in outer.parts.items() if context.statement.part(n, outer) == (part, outer)
    }  # fmt: skip
    return len(shown) == 1 and not grain.multipliers(next(iter(shown)))


def _column(context: ReviewContext, name: str, node: exp.Expr, numbers: list[float]) -> list[Finding]:
    low, high, outer = min(numbers), max(numbers), context.statement.outer
    label = name.replace("_", " ")
    outside = _outside(context, label, node, low, high)
    if outside is not None:
        return [outside]
    if high < 0 and _lasts(context, node):
        message = said_as("caveat-result-backwards", figure=label, value=f"{high:g}")
        return [_finding("result-negative", message, "Look at which time is taken from which.")]
    if isinstance(node, exp.Count) and low < 0:
        message = said_as("caveat-result-negative", figure=label, value=f"{low:g}")
        return [_finding("result-negative", message, "Look at the SQL.")]
    if outer.groups and len(numbers) > 3 and low == high and node.find(exp.AggFunc) and abs(low) > _SLACK:
        message = said_as("caveat-result-constant", figure=label, value=f"{low:g}")
        told = _finding("result-constant", message, "It may be so; look at what it is computed from.")
        return [replace(told, severity="info")]
    return []


def _outside(context: ReviewContext, label: str, node: exp.Expr, low: float, high: float) -> Finding | None:
    """Whether a share of a hundred is none, or a column's figures lie far from all that was seen in it."""
    if context.notes.known_units.of_name(label) == "%" and _divides(node) and (low < -_SLACK or high > 100 + _SLACK):
        message = said_as("caveat-no-share", figure=label, value=f"{low if low < 0 else high:g}")
        return _finding("result-outside", message, "Look at what is divided by what.")
    ref = context.statement.ref(node.this) if isinstance(node, exp.Avg | exp.Max | exp.Min) else None
    least, most = (_number(ref.column.low), _number(ref.column.high)) if ref is not None else (None, None)
    if least is None or most is None:
        return None
    room = 0.5 * (most - least) + _SLACK
    if least - room <= low and high <= most + room:
        return None
    message = said_as(
        "caveat-result-outside", figure=label, value=f"{low if low < least else high:g}", column=str(ref),
        least=f"{least:g}", most=f"{most:g}",
    )  # fmt: skip
    return _finding("result-outside", message, "The data may have changed since it was looked at.")


def _divides(node: exp.Expr) -> bool:
    """Whether something is divided that is not a change, (new - old) / old, which may lie anywhere."""
    for div in node.find_all(exp.Div):
        taken_off = [sub.expression.unnest() for sub in div.this.find_all(exp.Sub)]
        if not any(old == n for old in taken_off for n in within(div.expression)):
            return True
    return False


def _lasts(context: ReviewContext, node: exp.Expr) -> bool:
    """Whether it is how long something took or was ahead: the difference of two columns of times."""
    return any(
        len({r.key for r in context.statement.refs(n) if is_temporal(r.column)}) > 1
        for n in within(node) if isinstance(n, exp.Sub)
    )  # fmt: skip


def _number(value: object) -> float | None:
    if isinstance(value, bool) or value is None:
        return None
    if isinstance(value, int | float):
        return float(value)
    try:
        return float(value) if isinstance(value, str) and re.fullmatch(r"-?\d+(\.\d+)?", value) else None
    except ValueError:
        return None


def _finding(rule: str, message: str, hint: str) -> Finding:
    return Finding(rule=rule, severity="warning", message=message, hint=hint)
