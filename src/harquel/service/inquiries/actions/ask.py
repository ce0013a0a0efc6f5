"""Asks a question: checks it, stores it with its ledger entry, puts it in line."""

from __future__ import annotations

import secrets

from harquel.contract import Inquiry, InquiryRequest
from harquel.core.clock import utc_now
from harquel.core.domain.language import language_of
from harquel.service.access.models import Person, Token
from harquel.service.asking import Overloaded
from harquel.service.idempotency import Once
from harquel.service.ledger.append import append
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime
from harquel.service.sources.actions.find import source_for

from ..models import StoredInquiry
from .find import find_inquiry


def ask(request: InquiryRequest, token: Token, once: Once) -> str:
    """The id of the inquiry, which is under way when this returns.

    Raises ProblemError: an empty question, an unknown source, none to choose from, too many waiting.
    """
    question = " ".join(request.question.split())
    if not question:
        raise ProblemError(422, "empty-question", "The question is empty.", "Write what you want to know.")
    source = source_for(request.source, token)
    if request.follows is not None:
        find_inquiry(request.follows, token)
    live = runtime()
    try:
        ticket = live.pool.reserve()
    except Overloaded as full:
        raise ProblemError(
            429, "too-busy", "Too many inquiries are waiting.", f"Ask again in {full.after_s} s.",
            {"Retry-After": str(full.after_s)},
        ) from full  # fmt: skip
    now = source.now(request.as_of)
    inquiry = Inquiry(
        id=secrets.token_hex(8), state="queued", source=source.name, question=question, language=language_of(question),
        as_of=now, asked_by=token.person.name, asked_at=utc_now(), follows=request.follows,
    )  # fmt: skip

    def store() -> str:
        earlier = once.earlier()
        if earlier is not None:
            return earlier
        StoredInquiry.objects.create(
            key=inquiry.id, person=Person.objects.get(pk=token.person_id), source=inquiry.source,
            question=question, follows=inquiry.follows, as_of=now, asked_at=inquiry.asked_at, state="queued",
            roles=token.roles, values=token.values,
        )  # fmt: skip
        facts = {"source": source.name, "token": token.pk, "as_of": now.isoformat(), "follows": inquiry.follows}
        append(who=inquiry.asked_by, kind="accepted", inquiry=inquiry.id, facts=facts, texts={"question": question})
        once.settle(inquiry.id)
        return inquiry.id

    try:
        key = live.writer.do(store)
    except BaseException:
        live.pool.give_back()
        raise
    if key != inquiry.id:
        live.pool.give_back()
        return key
    live.launch(ticket, inquiry, now, token.asker)
    return key
