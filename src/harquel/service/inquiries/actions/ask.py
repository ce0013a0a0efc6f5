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
from harquel.service.problems import ProblemError, not_found
from harquel.service.runtime import LiveSource, runtime

from ..models import StoredInquiry
from .find import find_inquiry


def ask(request: InquiryRequest, token: Token, once: Once) -> str:
    """The id of the inquiry, which is under way when this returns.

    Raises ProblemError: an empty question, an unknown source, none to choose from, too many waiting.
    """
    question = " ".join(request.question.split())
    if not question:
        raise ProblemError(422, "empty-question", "The question is empty.", "Write what you want to know.")
    source = choose_source(request.source, token)
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
    live.launch(ticket, inquiry, now)
    return key


def choose_source(name: str | None, token: Token) -> LiveSource:
    """The source named, or the only one there is for this token. Raises ProblemError."""
    seen = {n: s for n, s in runtime().sources.items() if token.sees(n)}
    if name is None:
        if len(seen) == 1:
            return next(iter(seen.values()))
        if not seen:
            raise ProblemError(
                422, "no-source", "No source is connected.", "Add a section [sources.NAME] to harquel.toml."
            )
        names = ", ".join(sorted(seen))
        raise ProblemError(422, "source-missing", "There are several sources; name one.", f"They are: {names}.")
    if name not in seen:
        raise not_found("source", name, f"Known here: {', '.join(sorted(seen)) or 'none'}.")
    return seen[name]
