"""Decides on a held statement: it runs, or the inquiry ends."""

from __future__ import annotations

from harquel.contract import Inquiry, ProblemNote, ReleaseRequest
from harquel.service.access.models import Token, asker
from harquel.service.asking import Overloaded
from harquel.service.bus import END
from harquel.service.ledger.append import append
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime

from ..models import StoredInquiry
from ..recording import store_end
from ..shapes import inquiry_shape
from .find import find_inquiry


def release(key: str, request: ReleaseRequest, token: Token) -> None:
    """Raises ProblemError: no such inquiry, none that waits, too many under way."""
    stored = find_inquiry(key, token)
    live = runtime()
    if stored.person_id == token.person_id:
        raise ProblemError(
            403, "own-inquiry", "Nobody releases a statement of their own.", "Ask somebody else with the right to."
        )
    if request.approve and not _asker_counts(stored):
        raise ProblemError(
            409, "token-ended", "The token that this was asked with was revoked or has come to its end.",
            "Turn the statement down; it can be asked again with a token that counts.",
        )  # fmt: skip
    try:
        ticket = live.pool.reserve() if request.approve else None
    except Overloaded as full:
        raise ProblemError(
            429, "too-busy", "Too many inquiries are waiting.", f"Try again in {full.after_s} s.",
            {"Retry-After": str(full.after_s)},
        ) from full  # fmt: skip

    def decide() -> None:
        found = StoredInquiry.objects.select_related("person").get(pk=stored.pk)
        inquiry = inquiry_shape(found)
        if found.state != "held" or inquiry.hold is None:
            raise ProblemError(409, "not-held", "This inquiry does not wait for anybody.", "See how it ended.")
        inquiry.hold.approved, inquiry.hold.by, inquiry.hold.note = request.approve, token.person.name, request.note
        append(
            who=token.person.name, kind="released" if request.approve else "turned-down", inquiry=key,
            facts={"policy_line": inquiry.hold.policy_line}, texts={"note": request.note},
        )  # fmt: skip
        if request.approve:
            inquiry.state = "working"
            record = inquiry.model_dump(mode="json")
            StoredInquiry.objects.filter(pk=found.pk).update(state="working", record=record, decided_by=token.person_id)
            return
        StoredInquiry.objects.filter(pk=found.pk).update(decided_by=token.person_id)
        said = f"{token.person.name} did not release the statement."
        hint = request.note or "Ask for something narrower, or talk to them."
        end_held(inquiry, inquiry.hold.policy_line, "not-released", said, hint)

    try:
        live.writer.do(decide)
    except BaseException:
        if ticket is not None:
            live.pool.give_back()
        raise
    if ticket is None:
        live.bus.tell(key, END)
        return
    stored.refresh_from_db()
    inquiry = inquiry_shape(stored)
    assert inquiry.as_of is not None
    person = asker(stored.person.name, stored.roles, stored.values)
    live.launch(ticket, inquiry, inquiry.as_of, person, token.person.name)


def _asker_counts(stored: StoredInquiry) -> bool:
    """Whether the token that asked still counts; of older inquiries, which do not say, any token of that person."""
    if stored.token_id is not None:
        return Token.living().filter(pk=stored.token_id).exists()
    return Token.living().filter(person_id=stored.person_id).exists()


def end_held(inquiry: Inquiry, line: str, kind: str, title: str, hint: str) -> None:
    """Ends an inquiry that waits. Runs inside the writer."""
    inquiry.state, inquiry.outcome = "ended", "cancelled" if kind == "cancelled" else "refused"
    inquiry.problem = ProblemNote(type=kind, title=title, hint=hint, policy_line=line)
    store_end(inquiry)
