"""What the question leaves out is left out, and what it does not is not.

Bad:  "which harbours have no ramp": SELECT name FROM harbour WHERE has_ramp = 1
Good: SELECT name FROM harbour WHERE has_ramp = 0
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.briefing.words import name_stems, split, stem
from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.grain import Grain
from harquel.core.review.known import known_of
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition, Level, Part, within
from harquel.core.review.vocabulary import OPPOSITES

CODE = "negation"
_PASTS = frozenset("left paid sold sent gone done born built lost held begun broken taken returned".split())


@rule(CODE)
def negation(context: ReviewContext) -> list[Finding]:
    """A finding where "not" has no trace, or where the query denies what the question affirms."""
    found: list[Finding] = []
    granted = context.default_filters.union(*(context.measure_conditions(m) for _, m in context.measures_asked()))
    negating = [
        c for c in context.statement.conditions if c.negates and not (set(known_of(c)) and set(known_of(c)) <= granted)
    ]

    def denies(text: str) -> bool:
        """Whether it holds a word that denies by itself, and that the question does not say anyway."""
        return any(context.negative(s) and s not in context.question.stems for s in map(stem, split(text)))

    if "not" in context.question.has:
        denied = (
            negating
            or any(lv.negated for lv in context.statement.levels)
            or any(denies(said) for c in context.statement.conditions if c.ref is not None for said in
                   (c.ref.column.name, *(f"{v} {context.about(*c.ref.key).codes.get(str(v), '')}" for v in c.values)))
            or _counts_down(context)
        )  # fmt: skip
        if not denied:
            message = "The question leaves something out (not, no, other than); the query leaves nothing out."
            found.append(context.finding(CODE, "error", message, "Add the condition that leaves it out."))
        return found + _beside(context, negating)
    for condition in context.statement.conditions:
        ref = condition.ref
        if ref is None or not condition.bare:
            continue
        key = ref.key
        if condition.op == "is not null" and context.question_means("null", *key) and not _denied(context, key):
            message = f"The question means rows in which {ref} is empty; the query takes the others."
            found.append(context.finding(CODE, "error", message, "Write IS NULL.", condition.node))
        elif condition.op == "is null" and _has_happened(context, condition):
            message = (
                f"The question means what has a {' '.join(split(ref.column.name))}; the query takes what has none."
            )
            found.append(context.finding(CODE, "error", message, "Write IS NOT NULL.", condition.node))
        elif condition.op in ("=", "true") and not condition.negates and _opposite(context, condition):
            message = f"The question means the opposite of {ref}; the query takes what is so."
            found.append(context.finding(CODE, "error", message, "Turn the condition round.", condition.node))
        elif (
            condition.negates and ref.column.kind == "boolean" and _affirmed(context, key)
            and not any((*key, "=", False) in context.measure_conditions(m) for _, m in context.measures_asked())
        ):  # fmt: skip
            message = f"The question affirms {ref}; the query denies it."
            found.append(context.finding(CODE, "error", message, "Turn the condition round.", condition.node))
    return found


def _beside(context: ReviewContext, negating: list[Condition]) -> list[Finding]:
    """What has several rows of something still has others when one of them is left out: that denies nothing."""
    outer = context.statement.outer
    if outer.aggregates or outer.groups:
        return []
    shown = {
        alias for p in outer.select.expressions for n in within(p) if isinstance(n, exp.Column)
        for alias, part in outer.parts.items() if context.statement.part(n, outer) == (part, outer)
    }  # fmt: skip
    grain = context.grain(outer)
    for condition in negating:
        place = _part(context, condition)
        if condition.level is not outer or condition.op not in ("<>", "not in", "not like") or place is None:
            continue
        goal = next(a for a, p in outer.parts.items() if p is place[0])
        if len(shown) == 1 and _on_the_way(grain, next(iter(shown)), goal):
            message = (
                f"Other rows than {condition.node.sql(comments=False)} are enough to be listed, even where there are "
                "such rows as well."
            )
            return [context.finding(CODE, "error", message, "Use NOT EXISTS over all the rows.", condition.node)]
    return []


def _denied(context: ReviewContext, key: tuple[str, str]) -> bool:
    """Whether the notes say what is missing with a "not" that the question does not say: not departed."""
    return split(context.about(*key).null_means or "")[:1] == ["not"]


def _part(context: ReviewContext, condition: Condition) -> tuple[Part, Level] | None:
    subject = condition.subject
    return context.statement.part(subject, condition.level) if isinstance(subject, exp.Column) else None


def _has_happened(context: ReviewContext, condition: Condition) -> bool:
    """Whether the question says of a time that it came: who has left, what was paid."""
    assert condition.ref is not None
    table, column = condition.ref.key
    part = _part(context, condition)
    if not is_temporal(condition.ref.column) or (part is not None and part[0].side == "left"):
        return False
    if "now" in context.question.has or context.question_means("null", table, column):
        return False
    return any(
        (word := context.question.words[mention.first].text).endswith("ed") or word in _PASTS
        for mention in context.question.mentions for m in mention.meanings
        if m.kind == "column" and (m.table, m.column) == (table, column)
    )  # fmt: skip


def _opposite(context: ReviewContext, condition: Condition) -> bool:
    """Whether a flag is asked for by the word that says that it is not set: failed for passed."""
    ref = condition.ref
    if ref is None or ref.column.kind != "boolean":
        return False
    return any(OPPOSITES.get(w, frozenset()) & context.question.stems and w not in context.question.stems
               for w in name_stems(ref.column.name))  # fmt: skip


def _on_the_way(grain: Grain, start: str, goal: str) -> bool:
    """Whether rows are multiplied between what is shown and what is left out."""
    return bool((grain.way(start, goal) or frozenset()) & grain.multipliers(start))


def _affirmed(context: ReviewContext, key: tuple[str, str]) -> bool:
    table, column = key
    return any(
        m.table == table and m.column == column and m.kind in ("column", "code") and m.value != "0"
        for mention in context.question.mentions for m in mention.meanings
    )  # fmt: skip


def _counts_down(context: ReviewContext) -> bool:
    """Whether what is wanted is a difference of counts, or a CASE that gives nothing for it."""
    return any(
        isinstance(n, exp.Sub | exp.Except) or (isinstance(n, exp.If) and str(n.args["true"]) == "0")
        for n in context.statement.tree.walk()
    )
