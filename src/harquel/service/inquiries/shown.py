"""An answer as it is shown to somebody who need not be the one who asked."""

from __future__ import annotations

from harquel.contract import Inquiry, ShownAnswer
from harquel.core.answers.exports import mark
from harquel.core.language.say import say
from harquel.service.access.caller import Caller

from .for_others import sees_as_much
from .models import StoredInquiry
from .shapes import inquiry_of, shape_of

ROWS = 200
"""Rows that go along."""


def may_see(stored: StoredInquiry, caller: Caller) -> bool:
    """Whether its answer is for a caller: their own, of a source that they have; by the scope audit; or as much as
    they may see themselves.
    """
    if not caller.sees(stored.source):
        return False
    return stored.person_id == caller.person or caller.may("audit") or sees_as_much(stored, caller)


def answered(stored: StoredInquiry) -> Inquiry | None:
    """As it is shown, where there is an answer."""
    inquiry = inquiry_of(stored)
    return shape_of(inquiry, stored.thread) if inquiry.answer is not None else None


def without_since(inquiry: Inquiry) -> Inquiry:
    """Without what it says of an answer before it."""
    answer = inquiry.answer
    if answer is None or answer.since is None:
        return inquiry
    text = answer.text.removesuffix(answer.since.said).rstrip()
    return inquiry.model_copy(update={"answer": answer.model_copy(update={"text": text, "since": None})})


def shown(stored: StoredInquiry, caller: Caller, language: str) -> ShownAnswer:
    """What a caller is shown of it; in a language where nothing was answered."""
    if not caller.sees(stored.source):
        return ShownAnswer(inquiry=stored.key, state="not-for-you", said=say(language, "shown-no-source"))
    found = inquiry_of(stored)
    about = ShownAnswer(
        inquiry=stored.key, state="shown", mine=stored.person_id == caller.person, source=stored.source,
        question=found.standalone_question or found.question, asked_by=stored.person.name, asked_at=stored.asked_at,
        as_of=found.as_of, language=found.language,
    )  # fmt: skip
    if stored.state != "ended":
        return about.model_copy(update={"state": "under-way", "said": say(language, "shown-under-way")})
    inquiry = answered(stored)
    if inquiry is None or inquiry.answer is None:
        return about.model_copy(update={"state": "no-answer", "said": say(language, "shown-no-answer")})
    if not may_see(stored, caller):
        return about.model_copy(update={"state": "not-for-you", "said": say(language, "shown-not-for-you")})
    inquiry = without_since(inquiry)
    answer = inquiry.answer
    assert answer is not None
    since = found.answer.since if found.answer is not None else None
    if since is not None:
        # What was different before was seen by the rights of then.
        earlier = StoredInquiry.objects.select_related("person", "result").filter(key=since.inquiry).first()
        since = since if earlier is not None and may_see(earlier, caller) else None
    table = answer.table.model_copy(update={"rows": answer.table.rows[:ROWS]})
    return about.model_copy(update={
        "text": answer.text, "trust": inquiry.trust, "mark": mark(inquiry), "caveats": answer.caveats,
        "remark": answer.remark, "since": since.said if since is not None else "",
        "moved": None if since is None or since.same is None else not since.same,
        "table": table, "chart": answer.chart, "lines": answer.lines, "sql": answer.sql_shown or answer.sql,
    })  # fmt: skip
