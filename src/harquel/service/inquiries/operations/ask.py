"""Asks a question: checks it, stores it with its ledger entry, puts it in line."""

from __future__ import annotations

import secrets
from dataclasses import dataclass

from harquel.contract import Inquiry, InquiryRequest, events
from harquel.core.clock import utc_now
from harquel.core.domain.again import Before
from harquel.core.domain.earlier import Earlier
from harquel.core.domain.findings import RETIRED, REVIEW_CODES
from harquel.core.domain.followed import earlier_of
from harquel.core.domain.inquiry import Answer
from harquel.core.domain.inquiry import Inquiry as Asked
from harquel.core.language import language_of, surely
from harquel.core.language.say import in_language
from harquel.core.nearest import nearest
from harquel.service.access.caller import Caller
from harquel.service.asking import Overloaded
from harquel.service.deliveries import AT_ONCE
from harquel.service.errors import ProblemError, records_trouble
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, operation
from harquel.service.records.usable import short_of_space
from harquel.service.runtime import runtime
from harquel.service.sources.choosing import SOURCE_CHOICE, Picked, pick
from harquel.service.sources.finding import source_for

from ..finding import find_inquiry, thread_of
from ..models import StoredInquiry
from ..shapes import inquiry_of, inquiry_shape, shape_of

_ASIDE = 20
"""So many in a row that hold no question are gone back over."""
AGAIN = "again"
"""The choice of having the statement of an earlier answer run again."""
WHOLE = "whole"
"""The choice of having all rows of an earlier answer written to a file."""
OF_OLD = frozenset({AGAIN, WHOLE})
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


@operation(
    "inquiry.ask", takes=InquiryRequest, gives=Inquiry, scope="ask", about=NO_SUBJECT, repeat="once",
    entries=("accepted",), rule="sources of one's own token; what it follows must be one's to read",
)  # fmt: skip
def ask(call: Call[InquiryRequest, None]) -> Inquiry:
    """Asks a question. With `wait_s` the response waits that long for the end.

    Raises ProblemError: an empty question, an unknown source or none to choose from, a choice that was not offered,
    an unknown finding, too many waiting.
    """
    caller, once = call.caller, call.once
    earlier = find_inquiry(call.asked.follows, caller) if call.asked.follows is not None else None
    request = _chosen_in_words(call.asked, earlier)
    question, standalone = _question(request, earlier)
    followed = _followed(request, earlier, caller)
    _known_findings(request.silence)
    chosen = earlier if request.choice is not None else None
    picked = _picked(request, chosen or (earlier if followed is not None else None), question, caller)
    source = picked.source
    live = runtime()
    short = short_of_space(live.config.data_dir)
    if short:
        raise records_trouble(short)
    if request.choice == WHOLE:
        room_for_a_whole_result()
    try:
        ticket = live.inquiries.pool.reserve()
    except Overloaded as full:
        raise ProblemError(
            429, "too-busy", "problem-inquiries-waiting", {"Retry-After": str(full.after_s)}, seconds=full.after_s
        ) from full
    # A reply is about the instant of the question that it decides.
    before = _before(earlier, caller, request.choice) if request.choice in OF_OLD and earlier is not None else None
    now = source.now(request.as_of or (chosen.as_of if chosen and before is None else None))
    # Which source is meant decides nothing of how the question is.
    decided = None if (request.choice or "").startswith(SOURCE_CHOICE) else request.choice
    inquiry = Asked(
        id=secrets.token_hex(8), state="queued", source=source.name, question=question,
        language=surely(question) or request.language or (followed.language if followed else language_of(question)),
        as_of=now, asked_by=caller.name, asked_at=utc_now(), follows=request.follows,
        choice=decided, standalone_question=standalone, silenced=request.silence, again=before,
        between=list(picked.between), earlier=followed.about(source.name) if followed is not None else None,
    )  # fmt: skip
    inquiry.source_why = in_language(picked.why, inquiry.language)

    def store() -> str:
        done = once.earlier()
        if done is not None:
            return done
        row = StoredInquiry.objects.create(
            key=inquiry.id, person_id=caller.person, source=inquiry.source,
            question=question, follows=inquiry.follows, thread=thread_of(earlier), as_of=now, asked_at=inquiry.asked_at,
            state="working" if ticket.at_once else "queued",
            roles=list(caller.roles), values=dict(caller.values), token_id=caller.token, choice=inquiry.choice,
            silenced=inquiry.silenced,
            standalone_question=standalone,
        )  # fmt: skip
        accepted = events.Accepted(
            source=source.name, token=caller.token, as_of=now.isoformat(), follows=inquiry.follows,
            choice=request.choice, silenced=inquiry.silenced,
        )  # fmt: skip
        append(who=inquiry.asked_by, what=accepted, inquiry=inquiry.id, texts={"question": question})
        once.settle(inquiry.id)
        ticket.row = row.pk
        return inquiry.id

    try:
        key = live.writer.do(store, twice=True)
    except BaseException:
        live.inquiries.pool.give_back()
        raise
    if key != inquiry.id:
        live.inquiries.pool.give_back()
        return inquiry_shape(find_inquiry(key, caller))
    # As it is now: from here on it is filled by whoever works on it.
    queued = shape_of(inquiry, thread_of(earlier))
    live.inquiries.launch(ticket, inquiry, now, caller.asker)
    return queued


def _picked(request: InquiryRequest, chosen: StoredInquiry | None, question: str, caller: Caller) -> Picked:
    """The source that is named, that of the inquiry which a choice decides, or the one that the question is about."""
    if request.source is not None:
        return Picked(source_for(request.source, caller))
    if chosen is None:
        return pick(question, caller)
    choice = request.choice or ""
    name = choice.removeprefix(SOURCE_CHOICE)
    return Picked(source_for(name if name != choice else chosen.source, caller))


def _chosen_in_words(request: InquiryRequest, earlier: StoredInquiry | None) -> InquiryRequest:
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


def _followed(request: InquiryRequest, earlier: StoredInquiry | None, caller: Caller) -> Followed | None:
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


def room_for_a_whole_result() -> None:
    """Raises ProblemError where as many are being written as may be: each keeps one of those who ask waiting."""
    if runtime().inquiries.delivering() >= AT_ONCE:
        raise ProblemError(429, "too-busy", "problem-deliveries-busy", {"Retry-After": "60"})


def _question(request: InquiryRequest, earlier: StoredInquiry | None) -> tuple[str, str | None]:
    """The question, and the same with the reading that was chosen for it."""
    question = " ".join(request.question.split())
    if request.choice is None:
        if not question:
            raise ProblemError(422, "empty-question", "problem-empty-question")
        return question, None
    if earlier is None:
        raise ProblemError(422, "choice-of-nothing", "problem-choice-of-nothing")
    offered = _offered(earlier)
    if not offered and request.choice not in OF_OLD:
        raise ProblemError(409, "not-asked", "problem-not-asked")
    chosen = offered.get(request.choice) if request.choice not in OF_OLD else ""
    if chosen is None:
        raise ProblemError(
            422, "choice-not-offered", "problem-choice-not-offered", choice=request.choice, offered=", ".join(offered)
        )
    if question not in ("", earlier.question):
        raise ProblemError(422, "question-and-choice", "problem-question-and-choice")
    return earlier.question, chosen or inquiry_of(earlier).standalone_question


def _before(earlier: StoredInquiry, caller: Caller, choice: str | None) -> Before:
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


def _offered(earlier: StoredInquiry) -> dict[str, str]:
    """What can be chosen of an inquiry, and the question that it comes to: what was asked back, or what a part of how
    the question was understood could have meant instead.
    """
    known = inquiry_of(earlier)
    if known.clarify is not None:
        # Which source is meant changes nothing of the question.
        asked = known.standalone_question or known.question
        return {
            c.id: "" if c.id.startswith(SOURCE_CHOICE) else c.question or f"{asked} (meaning: {c.reading or c.label})"
            for c in known.clarify.choices
        }
    opinion = known.second_opinion
    return {o.id: o.question for o in opinion.instead} if opinion is not None and known.state == "ended" else {}


def _known_findings(names: list[str]) -> None:
    for name in names:
        if name not in REVIEW_CODES | RETIRED:
            near = nearest(name, REVIEW_CODES)
            if near:
                raise ProblemError(422, "unknown-finding", "problem-unknown-finding-near", name=name, near=near[0])
            raise ProblemError(422, "unknown-finding", "problem-unknown-finding", name=name)
