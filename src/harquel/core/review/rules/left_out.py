"""Every part of the question has a trace in the query.

Bad:  "cancelled because of fog": SELECT COUNT(*) FROM sailing WHERE status = 'X'
Good: SELECT COUNT(*) FROM sailing WHERE status = 'X' AND cancel_reason = 'fog'
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.briefing.meanings import Meaning
from harquel.core.briefing.words import fold, name_stems
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.question import Mention
from harquel.core.review.rules.rule import rule
from harquel.core.review.vocabulary import OPPOSITES

CODE = "left-out"
_ORDER = ("value", "code", "null", "column", "measure", "table", "remark")


@rule(CODE)
def left_out(context: ReviewContext) -> list[Finding]:
    """One finding for each word of the question that the query does nothing with."""
    found = []
    question = context.question
    for mention in question.mentions:
        if (
            mention.idle
            or _nobody(context, mention)
            or _covered(context, mention)
            or fold(mention.text) in context.called
        ):
            continue
        best = min(mention.meanings, key=lambda m: _ORDER.index(m.kind))
        severity = "warning"
        hint = f"It could be {_choices(mention.meanings)}. Use what it stands for, or say that it cannot be answered."
        message = f"The question says “{mention.text}”; nothing in the query stands for it."
        if not mention.firm:
            message = f"The question says “{mention.text}”, which could mean {best.said()}; the query does not use it."
        found.append(context.finding(CODE, severity, message, hint))
    return found


def _nobody(context: ReviewContext, mention: Mention) -> bool:
    """Whether it is only who did it: how long before the start do people enrol."""
    return mention.text.casefold() in ("people", "person", "persons") and not (
        mention is context.question.counted or any(p.mention is mention for p in context.question.per)
    )


def _covered(context: ReviewContext, mention: Mention) -> bool:
    meanings = list(mention.meanings)
    if mention.first == mention.last:
        parts = context.parts(context.question.words[mention.first].stem)
        meanings += [m for m in parts if m.column or not mention.firm]
        # Withdrawn is what a withdrawal was, even where it is also the name of a state.
        meanings += [m for m in context.meanings.near(context.question.words[mention.first].stem) if m.kind == "table"]
    if any(context.fulfils(m) for m in meanings) or _by_opposite(context, mention):
        return True
    if "not" in context.question.has and {m.table for m in meanings if m.kind == "column"} & _missing(context):
        return True
    # Crew shifts are about crew as well.
    words = {w.stem for w in context.question.words[mention.first : mention.last + 1]}
    own = all(m.kind == "table" for m in mention.meanings)
    names = [words, *(set(name_stems(m.table)) for m in mention.meanings if mention.firm)]
    return own and any(name <= set(name_stems(t)) for name in names for t in context.statement.names.reads)


def _missing(context: ReviewContext) -> set[str]:
    """The tables that rows are wanted to have no partner in: what has not been paid has no payment."""
    found = {
        part.table.name for level in context.statement.levels if level.negated for part in level.parts.values()
        if part.table is not None
    }  # fmt: skip
    for condition in context.statement.conditions:
        if condition.op == "is null" and condition.ref is not None and isinstance(condition.subject, exp.Column):
            part = context.statement.part(condition.subject, condition.level)
            if part is not None and part[0].side == "left":
                found.add(condition.ref.table.name)
    return found


def _by_opposite(context: ReviewContext, mention: Mention) -> bool:
    """Whether a flag that is not set stands for it: not passed for failed."""
    words = context.question.words[mention.first : mention.last + 1]
    opposites = {o for w in words for o in OPPOSITES.get(w.stem, ())}
    return any(
        c.negates
        and c.ref is not None
        and c.ref.column.kind == "boolean"
        and opposites & set(name_stems(c.ref.column.name))
        for c in context.statement.conditions
    )


def _choices(meanings: tuple[Meaning, ...]) -> str:
    said = dict.fromkeys(m.said() for m in sorted(meanings, key=lambda m: _ORDER.index(m.kind)))
    return " or ".join(list(said)[:3])
