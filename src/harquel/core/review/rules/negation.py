"""What the question leaves out is left out, and what it does not is not.

Bad:  "which harbours have no ramp": SELECT name FROM harbour WHERE has_ramp = 1
Good: SELECT name FROM harbour WHERE has_ramp = 0
"""

from __future__ import annotations

from sqlglot import exp

from harquel.contract import Finding
from harquel.core.briefing.words import split, stem
from harquel.core.review.context import ReviewContext, known_of
from harquel.core.review.grain import Grain
from harquel.core.review.statement import Condition, Level, Part, within

CODE = "negation"


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
        if condition.op == "is not null" and context.question_means("null", *key):
            message = f"The question means rows in which {ref} is empty; the query takes the others."
            found.append(context.finding(CODE, "error", message, "Write IS NULL.", condition.node))
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
        place = context.statement.part(condition.subject, outer) if isinstance(condition.subject, exp.Column) else None
        if condition.level is not outer or condition.op not in ("<>", "not in", "not like") or place is None:
            continue
        if len(shown) == 1 and _way(grain, next(iter(shown)), place[0], outer) & grain.multipliers(next(iter(shown))):
            message = (
                f"Other rows than {condition.node.sql(comments=False)} are enough to be listed, even where there are "
                "such rows as well."
            )
            return [context.finding(CODE, "error", message, "Use NOT EXISTS over all the rows.", condition.node)]
    return []


def _way(grain: Grain, start: str, part: Part, level: Level) -> set[str]:
    """The parts on the way from what is shown to a part, that one included."""
    goal = next(a for a, p in level.parts.items() if p is part)
    came: dict[str, str] = {start: ""}
    todo = [start]
    for here in todo:
        for one, other in grain.links:
            if one == here and other not in came:
                came[other] = here
                todo.append(other)
    found, here = set(), goal
    while here and here != start and here in came:
        found.add(here)
        here = came[here]
    return found


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
