"""From an inquiry that has ended to what of it goes along with the next."""

from __future__ import annotations

from harquel.core.domain.earlier import Earlier
from harquel.core.domain.inquiry import Inquiry


def earlier_of(inquiry: Inquiry) -> Earlier:
    """What goes along of one that has ended."""
    answer, opinion, clarify = inquiry.answer, inquiry.second_opinion, inquiry.clarify
    drafts = [a.draft.sql for a in inquiry.attempts if a.draft is not None and answer and a.rewritten_sql == answer.sql]
    return Earlier(
        inquiry=inquiry.id, question=inquiry.standalone_question or inquiry.question, as_of=inquiry.as_of,
        sql=drafts[-1] if drafts else "",
        reading=opinion.reading if answer is not None and opinion is not None and opinion.agrees else None,
        asked_back=clarify.question if clarify is not None else "",
        # A label may hold the figure that a reading comes to.
        ways=[way for c in clarify.choices if (way := c.question or c.reading)] if clarify is not None else [],
        sight=inquiry.sight,
    )  # fmt: skip
