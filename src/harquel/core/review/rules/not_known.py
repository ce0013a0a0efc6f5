"""A word that nothing in the source is called by is said to be so, not passed over.

Bad:  "revenue from subscriptions": SELECT SUM(total_cents) FROM booking
Good: an answer that there are no subscriptions in the data
"""

from __future__ import annotations

from harquel.contract import Finding
from harquel.core.review.context import ReviewContext

CODE = "not-known"


def not_known(context: ReviewContext) -> list[Finding]:
    """One finding for the words that mean nothing here, together."""
    literals = {str(v).casefold() for v in context.statement.literals if isinstance(v, str)}
    words = [
        w.text for w in context.question.unknown
        if w.stem not in context.vouched_words and not any(w.text in text for text in literals)
    ]  # fmt: skip
    if not words:
        return []
    listed = ", ".join(f"“{w}”" for w in dict.fromkeys(words))
    message = f"Nothing in this source is called {listed}; the query does not account for it."
    return [
        context.finding(CODE, "warning", message, "Say which table or column it is, or that it is not in the data.")
    ]
