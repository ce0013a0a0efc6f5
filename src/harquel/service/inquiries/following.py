"""What goes along of an inquiry into one that follows it: by what is said, by a choice, to run or to draft it again."""

from __future__ import annotations

from dataclasses import dataclass, replace

from harquel.contract import InquiryRequest
from harquel.core.domain.again import Before
from harquel.core.domain.earlier import Earlier
from harquel.core.domain.followed import earlier_of
from harquel.core.domain.inquiry import Answer
from harquel.core.domain.redraft import Redraft
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.sources.choosing import SOURCE_CHOICE

from .finding import find_inquiry
from .models import StoredInquiry
from .shapes import inquiry_of

_ASIDE = 20
"""So many in a row that hold no question are gone back over."""
AGAIN = "again"
"""The choice of having the statement of an earlier answer run again."""
WHOLE = "whole"
"""The choice of having all rows of an earlier answer written to a file."""
REDRAFT = "redraft"
"""The choice of having an answered question drafted again, by another model or by other templates."""
ANEW = "anew"
"""The choice of having the question of an earlier answer asked anew, about this moment."""
OF_OLD = frozenset({AGAIN, WHOLE, REDRAFT, ANEW})
"""Choices that any answer offers."""


@dataclass(frozen=True)
class Followed:
    """What goes along of an inquiry, and of which source and in which language that was."""

    earlier: Earlier
    source: str
    language: str

    def about(self, source: str) -> Earlier:
        """What of it goes along to a source: to another one its question alone."""
        if source == self.source:
            return self.earlier
        return Earlier(inquiry=self.earlier.inquiry, question=self.earlier.question, as_of=self.earlier.as_of)


def chosen_in_words(request: InquiryRequest, earlier: StoredInquiry | None) -> InquiryRequest:
    """A reply that is one of what was asked back, by its words, its number or its id, is a choice."""
    if earlier is None or request.choice is not None or earlier.outcome != "clarify":
        return request
    clarify = inquiry_of(earlier).clarify
    said = " ".join(request.question.casefold().split()).strip(".!")
    for number, one in enumerate(clarify.choices if clarify is not None else (), 1):
        if said in (
            str(number),
            one.id.casefold(),
            one.id.removeprefix(SOURCE_CHOICE).casefold(),
            one.label.casefold(),
        ):
            return request.model_copy(update={"choice": one.id, "question": ""})
    return request


def followed(request: InquiryRequest, earlier: StoredInquiry | None, caller: Caller) -> Followed | None:
    """What goes along of the inquiry that is followed by what is said now; None where nothing does: it is a choice, or
    the question is complete as it is. Raises ProblemError: not one's own, under way.
    """
    if earlier is None or request.choice is not None or request.complete:
        return None
    for _ in range(_ASIDE):
        # Thanks, and what could not be made out, hold nothing that could be followed: what they followed does.
        clarify = inquiry_of(earlier).clarify if earlier.outcome == "clarify" else None
        if clarify is None or clarify.choices or earlier.follows is None:
            break
        earlier = find_inquiry(earlier.follows, caller)
    if earlier.person_id != caller.person:
        raise ProblemError(403, "not-own-inquiry", "problem-not-own-followed")
    known = inquiry_of(earlier)
    if known.state != "ended":
        raise ProblemError(409, "still-under-way", "problem-still-under-way")
    if known.clarify is not None and any(c.id.startswith(SOURCE_CHOICE) for c in known.clarify.choices):
        # Nobody was asked anything yet: what is said now is another question.
        return None
    return Followed(earlier_of(known), known.source, known.language)


def anew(request: InquiryRequest, earlier: StoredInquiry | None, caller: Caller) -> Earlier | None:
    """What goes along of a question that is asked anew: how it was understood, whose times move along. Raises
    ProblemError: not one's own, no answer.
    """
    if earlier is None or request.choice != ANEW:
        return None
    if earlier.person_id != caller.person:
        raise ProblemError(403, "not-own-inquiry", "problem-not-own-again")
    known = inquiry_of(earlier)
    if known.answer is None:
        raise ProblemError(409, "no-answer", "problem-no-answer-again")
    return replace(earlier_of(known), anew=True)


def redraft(request: InquiryRequest, earlier: StoredInquiry | None, caller: Caller) -> Redraft | None:
    """What is other than before. Raises ProblemError: not a steward, not one's own, no answer."""
    if request.choice != REDRAFT:
        if request.model is not None or request.templates != "own":
            raise ProblemError(422, "model-without-redraft", "problem-model-without-redraft")
        return None
    if earlier is None:
        return None
    if not caller.may("steward"):
        raise ProblemError(403, "not-allowed", "problem-redraft-steward")
    if earlier.person_id != caller.person:
        raise ProblemError(403, "not-own-inquiry", "problem-not-own-again")
    known = inquiry_of(earlier)
    if known.answer is None:
        raise ProblemError(409, "no-answer", "problem-no-answer-again")
    table = known.answer.table
    kept = table.rows or not table.row_count
    return Redraft(
        inquiry=known.id, model=request.model or "", shipped=request.templates == "shipped",
        columns=[c.name for c in table.columns], types=[c.type for c in table.columns],
        rows=table.rows if kept and table.cut_by is None else None,
    )  # fmt: skip


def before(earlier: StoredInquiry, caller: Caller, choice: str | None) -> Before:
    """What its statement is held against once it has run again. Raises ProblemError: not one's own, no answer."""
    if earlier.person_id != caller.person:
        raise ProblemError(403, "not-own-inquiry", "problem-not-own-again")
    known = inquiry_of(earlier)
    answer = known.answer
    ran = [a for a in known.attempts if a.draft is not None and answer is not None and a.rewritten_sql == answer.sql]
    if answer is None or not ran or ran[-1].draft is None:
        raise ProblemError(409, "no-answer", "problem-no-answer-again")
    draft = ran[-1].draft
    kept = answer.table.rows or not answer.table.row_count
    return Before(
        inquiry=known.id, as_of=known.as_of, asked_at=known.asked_at, sql=draft.sql, explanation=draft.explanation,
        model=draft.model, text=_without_since(answer), remark=answer.remark,
        chart=answer.chart, trust=known.trust,
        caveats=[(c.rule, c.message) for c in answer.caveats], columns=[c.name for c in answer.table.columns],
        rows=answer.table.rows if kept and choice == AGAIN else None, cut=answer.table.cut_by is not None,
        whole=choice == WHOLE,
    )  # fmt: skip


def _without_since(answer: Answer) -> str:
    """Its sentence, without what it said of one before it."""
    return answer.text.removesuffix(answer.since.said).rstrip() if answer.since is not None else answer.text
