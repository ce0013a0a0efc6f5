"""From stored inquiries to the core's values, and from those to the shapes of the contract."""

from __future__ import annotations

from typing import Any

from harquel import contract
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.record import read

from .models import StoredInquiry
from .unkept import unkept


def shape_of(inquiry: Inquiry, thread: str | None) -> contract.Inquiry:
    """As it is shown; `thread` is the first of those that it follows."""
    return contract.Inquiry.model_validate(inquiry, from_attributes=True).model_copy(update={"thread": thread})


def line_shape(stored: StoredInquiry) -> contract.InquiryLine:
    """One line of the list."""
    known = unkept(stored.key)
    standalone = stored.standalone_question if known is None else known.standalone_question
    return contract.InquiryLine(
        **_common(stored), standalone_question=standalone, follows=stored.follows, thread=stored.thread
    )


def inquiry_shape(stored: StoredInquiry) -> contract.Inquiry:
    """The whole as it is shown; while it is under way, as much as is known."""
    return shape_of(inquiry_of(stored), stored.thread)


def inquiry_of(stored: StoredInquiry) -> Inquiry:
    """The whole; while it is under way, as much as is known."""
    late = unkept(stored.key)
    if late is not None:
        return late
    if stored.record is None:
        return Inquiry(
            **_common(stored), follows=stored.follows, as_of=stored.as_of, choice=stored.choice,
            standalone_question=stored.standalone_question, silenced=stored.silenced,
        )  # fmt: skip
    inquiry = read(stored.record)
    result = getattr(stored, "result", None)
    if inquiry.answer is not None and result is not None and result.rows is not None:
        inquiry.answer.table.rows = result.rows
    opinion = inquiry.second_opinion
    if opinion is not None and opinion.table is not None and result is not None and result.second is not None:
        opinion.table.rows = result.second
    return inquiry


def _common(stored: StoredInquiry) -> dict[str, Any]:
    late = unkept(stored.key)
    return {
        "id": stored.key,
        "state": late.state if late else stored.state,
        "outcome": late.outcome if late else stored.outcome,
        "trust": stored.trust,
        "source": stored.source,
        "question": stored.question,
        "asked_by": stored.person.name,
        "asked_at": stored.asked_at,
    }
