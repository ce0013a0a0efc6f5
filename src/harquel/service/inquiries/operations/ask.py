"""Asks a question: checks it, stores it with its ledger entry, puts it in line."""

from __future__ import annotations

import secrets

from harquel.contract import Inquiry, InquiryRequest, events
from harquel.core.clock import utc_now
from harquel.core.domain.findings import RETIRED, REVIEW_CODES
from harquel.core.domain.inquiry import Inquiry as Asked
from harquel.core.domain.redraft import Redraft
from harquel.core.errors import ConfigurationError
from harquel.core.language import language_of, surely
from harquel.core.language.say import in_language
from harquel.core.nearest import nearest
from harquel.service.access.caller import Caller
from harquel.service.asking import Overloaded, Ticket
from harquel.service.deliveries import AT_ONCE
from harquel.service.errors import ProblemError, records_trouble
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, operation
from harquel.service.records.usable import short_of_space
from harquel.service.redrafting import redrafting
from harquel.service.runtime import Runtime, runtime
from harquel.service.sources.choosing import SOURCE_CHOICE, Picked, pick
from harquel.service.sources.finding import source_for
from harquel.service.sources.live import LiveSource

from ..finding import find_inquiry, thread_of
from ..following import AGAIN, OF_OLD, WHOLE, anew, before, chosen_in_words, followed, redraft
from ..models import StoredInquiry
from ..shapes import inquiry_of, inquiry_shape, shape_of


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
    request = chosen_in_words(call.asked, earlier)
    question, standalone = _question(request, earlier)
    goes_along = followed(request, earlier, caller)
    again, once_anew = redraft(request, earlier, caller), anew(request, earlier, caller)
    _known_findings(request.silence)
    chosen = earlier if request.choice is not None else None
    picked = _picked(request, chosen or (earlier if goes_along is not None else None), question, caller)
    source = picked.source
    live = runtime()
    _must_have_room(live, request)
    # A reply is about the instant of the question that it decides.
    once_more = earlier is not None and request.choice in (AGAIN, WHOLE)
    of_old = before(earlier, caller, request.choice) if once_more and earlier is not None else None
    _drafts(again, source)
    of_then = chosen is not None and of_old is None and once_anew is None
    now = source.now(request.as_of or (chosen.as_of if chosen and of_then else None))
    # Which source is meant decides nothing of how the question is.
    decided = None if (request.choice or "").startswith(SOURCE_CHOICE) else request.choice
    inquiry = Asked(
        id=secrets.token_hex(8), state="queued", source=source.name, question=question,
        language=surely(question) or request.language or (goes_along.language if goes_along else language_of(question)),
        as_of=now, asked_by=caller.name, asked_at=utc_now(), follows=request.follows,
        choice=decided, redraft=again, standalone_question=standalone, silenced=request.silence, again=of_old,
        between=list(picked.between),
        earlier=goes_along.about(source.name) if goes_along is not None else once_anew,
    )  # fmt: skip
    inquiry.source_why = in_language(picked.why, inquiry.language)
    # Last of all: whatever is wrong with the question takes nobody's place.
    ticket = _reserved(live)

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
            choice=request.choice, silenced=inquiry.silenced, model=request.model,
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


def _reserved(live: Runtime) -> Ticket:
    """A place in the line. Raises ProblemError."""
    try:
        return live.inquiries.pool.reserve()
    except Overloaded as full:
        raise ProblemError(
            429, "too-busy", "problem-inquiries-waiting", {"Retry-After": str(full.after_s)}, seconds=full.after_s
        ) from full


def _picked(request: InquiryRequest, chosen: StoredInquiry | None, question: str, caller: Caller) -> Picked:
    """The source that is named, that of the inquiry which a choice decides, or the one that the question is about."""
    if request.source is not None:
        return Picked(source_for(request.source, caller))
    if chosen is None:
        return pick(question, caller)
    choice = request.choice or ""
    name = choice.removeprefix(SOURCE_CHOICE)
    return Picked(source_for(name if name != choice else chosen.source, caller))


def _must_have_room(live: Runtime, request: InquiryRequest) -> None:
    """Raises ProblemError where there is no room to write down what comes of it."""
    short = short_of_space(live.config.data_dir)
    if short:
        raise records_trouble(short)
    if request.choice == WHOLE:
        room_for_a_whole_result()


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


def _drafts(again: Redraft | None, source: LiveSource) -> None:
    """Raises ProblemError where the model that is wished for is none that may draft there."""
    try:
        redrafting(source.core, again, runtime().duties)
    except ConfigurationError as error:
        raise ProblemError(422, "unknown-model", "problem-redraft-model", said=str(error)) from error


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
