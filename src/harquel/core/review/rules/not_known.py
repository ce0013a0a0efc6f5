"""A word that nothing in the source is called by is said to be so, not passed over.

Bad:  "revenue from subscriptions": SELECT SUM(total_cents) FROM booking
Good: an answer that there are no subscriptions in the data
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.briefing.words import name_stems
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.dimensions import MONEY_UNITS, quantity_of
from harquel.core.review.rules.rule import rule
from harquel.core.review.vocabulary import AGES, BEGINNINGS, MONEY

CODE = "not-known"


@rule(CODE)
def not_known(context: ReviewContext) -> list[Finding]:
    """One finding for the words that mean nothing here, together."""
    literals = {str(v).casefold() for v in context.statement.literals if isinstance(v, str)}
    unknown = [
        w for w in context.question.unknown
        if w.stem not in context.vouched_words and not any(w.text in text for text in literals)
        and not _reckoned(context, w.text)
    ]  # fmt: skip
    if not unknown:
        return []
    # A word beside a time belongs to it perhaps, which was read without it.
    apart = [w for w in unknown if not context.question.beside_time(w.start, w.end)]
    words = [w.text for w in apart or unknown]
    listed = ", ".join(f"“{w}”" for w in dict.fromkeys(words))
    message = f"Nothing in this source is called {listed}: check what the query takes it for."
    return [
        context.finding(
            CODE,
            "warning" if apart else "info",
            message,
            "Say which table or column it is (a synonym in the notes does), or that it is not in the data.",
        )
    ]


def _reckoned(context: ReviewContext, word: str) -> bool:
    """Whether it is made of what the source knows: an age of a date of birth, new ones of a period."""
    if word in ("new", "newly"):
        return bool(context.question.periods)
    if word in MONEY:
        outer = context.statement.outer
        return any(quantity_of(p.unalias(), outer, context).unit in MONEY_UNITS for p in outer.select.expressions)
    if word == "net":
        # What is left after something was taken away.
        return context.statement.tree.find(exp.Sub, exp.Case) is not None
    stems = {s for _, column in context.statement.read for s in name_stems(column)}
    return word in AGES and bool(stems & BEGINNINGS)
