"""Every condition is there because of the question, a measure, a default filter or an example.

Bad:  "how many crossings": SELECT COUNT(*) FROM sailing WHERE status = 'A'
Good: SELECT COUNT(*) FROM sailing
"""

from __future__ import annotations

import re

from sqlglot import exp

from harquel.core.briefing.meanings import stands_for
from harquel.core.briefing.words import fold, name_stems, split, stem
from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import is_temporal, is_year
from harquel.core.review.context import ReviewContext
from harquel.core.review.known import Known, known_of, measure_columns, same_value
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition, Plain, within
from harquel.core.review.times import spans_of
from harquel.core.review.vocabulary import HAPPENED, NO_NAMES, OPPOSITES, OUTSTANDING

CODE = "unasked"


@rule(CODE)
def unasked(context: ReviewContext) -> list[Finding]:
    """One finding for each condition that nobody asked for."""
    found: list[Finding] = []
    granted = _granted(context)
    for condition in context.statement.conditions:
        if condition.ref is None or condition.place == "having" or not _choosing(context, condition):
            continue
        if not _motivated(context, condition, granted):
            text = " ".join(condition.node.sql(comments=False).split())
            if condition.op == "is not null":
                text = f"{condition.subject.sql(comments=False)} IS NOT NULL"
            message = f"The query asks for {text}; the question does not."
            found.append(
                context.finding(CODE, "warning", message, "Leave it out, unless the question means it.", condition.node)
            )
    return found


def _choosing(context: ReviewContext, condition: Condition) -> bool:
    """Whether it chooses rows by a value: no join, no time, and no branch that only names or sorts what is counted."""
    ref = condition.ref
    assert ref is not None
    if condition.op in ("is null", "is not null"):
        return condition.bare and not _technical(context, condition)
    if not condition.values or condition.op == "other":
        return False
    if (is_temporal(ref.column) or is_year(ref.column)) and (
        condition.bare or spans_of(condition.node, context.statement) is not None
    ):
        return False
    if not condition.bare:
        return False
    return not (condition.place == "case" and _labels(condition))


def _labels(condition: Condition) -> bool:
    """Whether a CASE only puts words for values: each branch gives a text."""
    case = condition.node.find_ancestor(exp.Case)
    return case is not None and all(
        isinstance(b.args["true"], exp.Literal) and b.args["true"].is_string for b in case.args["ifs"]
    )


def _technical(context: ReviewContext, condition: Condition) -> bool:
    found = (
        context.statement.part(condition.subject, condition.level)
        if isinstance(condition.subject, exp.Column)
        else None
    )
    if condition.op == "is null" and found is not None and found[0].side == "left":
        return True
    outputs = [n for p in condition.level.select.expressions for n in within(p)]
    key = condition.ref.key if condition.ref else None
    if condition.op == "is not null" and condition.level.role in ("in", "scalar"):
        return any((r := context.statement.ref(n)) is not None and r.key == key for n in outputs)
    return False


def _motivated(context: ReviewContext, condition: Condition, granted: frozenset[Known]) -> bool:
    ref, question = condition.ref, context.question
    assert ref is not None
    known = set(known_of(condition))
    if known and known <= granted:
        return True
    about = context.about(*ref.key)
    if condition.op in ("is null", "is not null"):
        # What has a time of its own has happened; how long it took is reckoned with it.
        if (
            condition.op == "is not null"
            and is_temporal(ref.column)
            and (_happens(context) or _reckoned(context, condition))
        ):
            return True
        if condition.op == "is not null" and not about.null_means and _reckoned(context, condition):
            return True
        if condition.op == "is not null" and (_compared(context, condition) or _ranked(context, condition)):
            return True  # what is compared cannot be empty anyway, and what is empty has no rank
        still = about.null_means.startswith("still") if about.null_means else is_temporal(ref.column)
        if condition.op == "is null" and "now" in question.has and still:
            return True
        if condition.op == "is null" and is_temporal(ref.column) and OUTSTANDING & {w.text for w in question.words}:
            return True
        if condition.op == "is not null" and about.null_means:
            return False
        return _column_asked(context, condition, remarks=False)
    if condition.op == "in" and any(isinstance(v, float) and context.number_asked(v) for v in condition.values):
        return True
    return all(_value_asked(context, condition, value) for value in condition.values)


def _granted(context: ReviewContext) -> frozenset[Known]:
    """Conditions that measures, default filters and examples vouch for."""
    found = set(context.vouched_for) | context.default_filters
    for _, measure in context.measures_asked():
        found |= context.measure_conditions(measure)
    sums = _sums(context)
    for measure in context.notes.measures.values():
        if "SUM" not in measure.sql.upper():
            continue
        if sums & measure_columns(measure, context.engine, context.catalog):
            found |= context.measure_conditions(measure)
        elif measure.of in {t for t, _ in sums}:
            # Another figure of the same rows: which of their owners count is agreed as well.
            found |= {k for k in context.measure_conditions(measure) if k[0] != measure.of}
    return frozenset(found)


def _sums(context: ReviewContext) -> set[tuple[str, str]]:
    return {
        r.key for level in context.statement.levels for node in level.aggregates if isinstance(node, exp.Sum)
        for r in context.statement.refs(node)
    }  # fmt: skip


def _happens(context: ReviewContext) -> bool:
    # A sailing is a thing; that it sailed is an event.
    return any(w.stem in HAPPENED and not w.text.endswith(("ing", "ings")) for w in context.question.words)


def _reckoned(context: ReviewContext, condition: Condition) -> bool:
    """Whether the column goes into what is computed."""
    key = condition.ref.key if condition.ref else None
    return any(
        (r := context.statement.ref(n)) is not None and r.key == key
        for level in context.statement.levels for p in level.select.expressions for n in within(p)
    )  # fmt: skip


def _ranked(context: ReviewContext, condition: Condition) -> bool:
    key = condition.ref.key if condition.ref else None
    return any(
        (r := context.statement.ref(o.this)) is not None and r.key == key
        for level in context.statement.levels for o in level.select.find_all(exp.Ordered)
    )  # fmt: skip


def _compared(context: ReviewContext, condition: Condition) -> bool:
    """Whether another condition that every row must meet compares the same column."""
    key = condition.ref.key if condition.ref else None
    return any(
        c is not condition and not c.either and c.op in ("=", "<", "<=", ">", ">=", "between", "in")
        and any(r.key == key for side in (c.subject, c.other) if side is not None for r in context.statement.refs(side))
        for c in condition.level.conditions
    )  # fmt: skip


def _column_asked(context: ReviewContext, condition: Condition, remarks: bool = True) -> bool:
    assert condition.ref is not None
    table, column = condition.ref.key
    return any(
        m.table == table and m.column == column and (remarks or m.kind != "remark")
        for mention in context.question.mentions
        for m in (*mention.meanings, *context.parts(context.question.words[mention.first].stem))
    )  # fmt: skip


def _remarked(context: ReviewContext, key: tuple[str, str]) -> bool:
    """Whether a word of the question, however common, stands in what the notes say of a flag: works for us."""
    return any(
        m.kind == "remark" and (m.table, m.column) == key
        for word in context.question.words if word.text not in NO_NAMES for m in context.parts(word.stem)
    )  # fmt: skip


def _opposite_asked(context: ReviewContext, condition: Condition) -> bool:
    assert condition.ref is not None
    return any(OPPOSITES.get(w, frozenset()) & context.question.stems for w in name_stems(condition.ref.column.name))


def _named(context: ReviewContext, names: tuple[str, ...]) -> bool:
    """Whether the question calls what a key stands for by its name."""
    asked = fold(context.question.text)
    return any(re.search(rf"(?<!\w){re.escape(fold(n))}(?!\w)", asked) for n in names)


def _some_there(context: ReviewContext, condition: Condition, value: float) -> bool:
    """More than none of what the question speaks of: in stock, on board."""
    ref = condition.ref
    if ref is None or (condition.op, value) not in ((">", 0.0), (">=", 1.0)) or str(ref.column.low).startswith("-"):
        return False
    return any(m.table == ref.table.name and m.kind == "table"
               for mention in context.question.mentions for m in mention.meanings)  # fmt: skip


def _value_asked(context: ReviewContext, condition: Condition, value: Plain) -> bool:
    ref, question = condition.ref, context.question
    assert ref is not None
    about = context.about(*ref.key)
    if isinstance(value, bool) or ref.column.kind == "boolean":
        return (
            _column_asked(context, condition)
            or _remarked(context, ref.key)
            or (condition.negates and _opposite_asked(context, condition))
        )
    if isinstance(value, float):
        names = context.names_of(condition)
        if names and not context.number_asked(value):
            return _named(context, names)
        return (
            ref.column.primary_key
            or context.number_asked(value)
            or _some_there(context, condition, value)
            or any(
                m.kind == "code"
                and m.table == ref.table.name
                and m.column == ref.column.name
                and same_value(value, m.value)
                for mention in question.mentions
                for m in mention.meanings
            )
            or (_column_asked(context, condition) and not question.numbers)
        )
    if value is None:
        return True
    text = str(value).replace("%", "")
    if any(
        (m.kind in ("code", "value") and m.table == ref.table.name and m.column == ref.column.name and m.value == text)
        or (m.kind == "value" and stands_for(text, m.value))
        for mention in question.mentions for m in mention.meanings
    ):  # fmt: skip
        return True
    if re.search(rf"(?<!\w){re.escape(text.casefold())}(?!\w)", question.text.casefold()):
        return True
    words = [stem(w) for w in split(text)]
    if (words and set(words) <= question.stems) or _named(context, context.names_of(condition) or ()):
        return True
    said = {stem(w) for w in split(about.codes.get(text, ""))}
    if said and said <= question.stems | (HAPPENED if _happens(context) else frozenset()):
        return True
    # "did not run" is as good as a word for cancelled.
    return "not" in question.has and any(context.negative(w) for w in (*words, *said)) and _happens(context)
