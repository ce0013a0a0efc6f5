"""The figure is the one asked for: an average where an average is asked for, a sum where it is how much.

Bad:  "average severity": SELECT SUM(severity) FROM incident
Good: SELECT AVG(severity) FROM incident
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.briefing.words import name_stems
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Level, called, within
from harquel.core.review.vocabulary import ADJECTIVES, MEASURED

CODE = "wrong-figure"


@rule(CODE)
def aggregates(context: ReviewContext) -> list[Finding]:
    """Findings on figures that are missing, and on figures that nobody asked for."""
    question, levels = context.question, context.statement.levels
    nodes = [(n, lv) for lv in levels for n in lv.aggregates]
    found: list[Finding] = []
    average = any(isinstance(n, exp.Avg) for n, _ in nodes) or _divides(context)
    if "average" in question.has and not average and "median" not in question.has:
        message = "The question asks for an average; the query takes none."
        found.append(context.finding(CODE, "error", message, "Use AVG."))
    for node, level in nodes:
        found += _unasked(context, node, level)
    if "how much" in question.has and nodes and all(isinstance(n, exp.Count) for n, _ in nodes):
        message = "The question asks how much; the query counts how many."
        found.append(context.finding(CODE, "error", message, "Add up the amount.", nodes[0][0]))
    if "how many" in question.has and not nodes and _lists(context):
        message = "The question asks how many; the query lists them."
        found.append(context.finding(CODE, "error", message, "Count the rows.", context.statement.outer.select))
    if "median" in question.has and nodes and not _middle(context):
        message = "The question asks for the median; the query takes another figure."
        found.append(context.finding(CODE, "error", message, "Take the middle value, not the average.", nodes[0][0]))
    found += _adjective(context) + _measured(context)
    return found


def _middle(context: ReviewContext) -> bool:
    """Whether something in the query can pick the middle: a percentile, a place in an order, an offset."""
    return any(
        isinstance(n, exp.Window | exp.Offset | exp.PercentileCont | exp.PercentileDisc | exp.Median | exp.WithinGroup)
        or called(n) in ("MEDIAN", "PERCENTILE_CONT", "PERCENTILE_DISC")
        for n in context.statement.tree.walk()
    )


def _measured(context: ReviewContext) -> list[Finding]:
    """What it costs stands in a column called so, if a table that is read has one."""
    question = context.question
    if question.measures or context.statement.outer.aggregates:
        return []
    for word in question.words:
        nouns = MEASURED.get(word.text)
        tables = [t for name in context.statement.names.reads if (t := context.catalog.table(name)) is not None]
        fitting = [
            (t.name, c.name) for t in tables for c in t.columns if nouns and nouns & set(name_stems(c.name))
        ]  # fmt: skip
        if fitting and not set(fitting) & context.statement.read:
            table, column = fitting[0]
            message = f"“{word.text}” is about {table}.{column}; the query does not use it."
            return [context.finding(CODE, "warning", message, f"Use {column}.")]
    return []


def _lists(context: ReviewContext) -> bool:
    """Whether nothing is computed and nothing that is shown could be a number of things."""
    outer = context.statement.outer
    for projection in outer.select.expressions:
        ref = context.statement.ref(projection.unalias())
        if ref is None:
            return False
        is_key = ref.column.primary_key or any(ref.column.name in k.columns for k in ref.table.foreign_keys)
        if ref.column.kind in ("number", "other") and not is_key:
            return False
    return bool(outer.select.expressions)


def _divides(context: ReviewContext) -> bool:
    return any(
        isinstance(n, exp.Div) and any(isinstance(m, exp.Count | exp.Sum) for m in within(n.expression))
        for lv in context.statement.levels for p in lv.select.expressions for n in p.walk()
    )  # fmt: skip


def _unasked(context: ReviewContext, node: exp.Expr, level: Level) -> list[Finding]:
    question = context.question
    ref = context.statement.ref(getattr(node, "this", None))
    is_key = ref is not None and (
        ref.column.primary_key or any(ref.column.name in k.columns for k in ref.table.foreign_keys)
    )
    if isinstance(node, exp.Sum | exp.Avg | exp.Max | exp.Min) and is_key and level is context.statement.outer:
        message = f"{ref} is a number that names a row; {node.key.upper()} of it says nothing."
        return [context.finding(CODE, "error", message, "Count the rows.", node)]
    if isinstance(node, exp.Avg) and not {"average", "share", "median"} & question.has and not _rate(context):
        message = "The question does not ask for an average; the query takes one."
        return [context.finding(CODE, "warning", message, "Add up, or take the figure that is asked for.", node)]
    turned = isinstance(node.this, exp.Case)  # one column for each value: there is a single one to take
    if isinstance(node, exp.Max | exp.Min) and level is context.statement.outer and not _temporal(context, node):
        if not question.superlatives and not question.first_is and not turned:
            end = "highest" if isinstance(node, exp.Max) else "lowest"
            message = f"The question does not ask for the {end}; the query takes it."
            return [context.finding(CODE, "warning", message, "Add up, or take the figure that is asked for.", node)]
        if question.superlatives[:1] == [("most", "high")] and level.groups and _amount(context, node):
            message = "The most is ranked by the largest single entry, not by the total."
            return [context.finding(CODE, "error", message, "Rank by SUM.", node)]
    return []


def _rate(context: ReviewContext) -> bool:
    return bool(context.question.measures) or "rate" in {w.text for w in context.question.words}


def _temporal(context: ReviewContext, node: exp.Expr) -> bool:
    return any(r.column.kind == "temporal" or str(r.column.low)[4:5] == "-" for r in context.statement.refs(node))


def _amount(context: ReviewContext, node: exp.Expr) -> bool:
    refs = context.statement.refs(node)
    return bool(refs) and any(context.about(*r.key).unit for r in refs) and not called(node)


def _adjective(context: ReviewContext) -> list[Finding]:
    """The longest vessel is the one of the greatest length, if vessels have a length."""
    words = context.question.words
    for position, word in enumerate(words):
        nouns = ADJECTIVES.get(word.text)
        after = next((m for m in context.question.mentions if m.first == position + 1), None)
        if nouns is None or after is None:
            continue
        named = {m.table for m in after.meanings if m.kind == "table"} & context.statement.names.reads.keys()
        # What a thing itself does not have it may have through what it is: a teacher is a person.
        for names in (sorted(named), sorted(context.statement.names.reads) if named else []):
            fitting = [
                (t.name, c.name) for name in names if (t := context.catalog.table(name)) is not None
                for c in t.columns if any(n in c.name.casefold() for n in nouns)
            ]  # fmt: skip
            if set(fitting) & context.statement.read:
                break
            if fitting:
                table, column = fitting[0]
                message = f"“{word.text} {after.text}” is about {table}.{column}; the query does not use it."
                return [context.finding(CODE, "error", message, f"Use {column}.")]
    return []
