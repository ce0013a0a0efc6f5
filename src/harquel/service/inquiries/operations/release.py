"""Decides on a held statement: it runs, or the inquiry ends."""

from __future__ import annotations

from harquel.contract import Inquiry, ReleaseRequest, events
from harquel.core.domain.record import written
from harquel.service.access.caller import Caller
from harquel.service.access.models import Token, asker
from harquel.service.asking import Overloaded
from harquel.service.bus import END
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime

from ..ending import end_held
from ..finding import INQUIRY, find_inquiry
from ..models import StoredInquiry
from ..shapes import inquiry_of, inquiry_shape
from .ask import room_for_a_whole_result


@operation(
    "inquiry.release", takes=ReleaseRequest, gives=Inquiry, scope="release", about=INQUIRY, repeat="same",
    # Turned down, it ends at once.
    entries=("released", "turned-down", "ended"), rule="never one's own, nor one whose token counts no more",
)  # fmt: skip
def release(call: Call[ReleaseRequest, StoredInquiry]) -> Inquiry:
    """Lets it run, or ends it; who decided, and why, goes on record."""
    _decide(call.about, call.asked, call.caller)
    return inquiry_shape(find_inquiry(call.about.key, call.caller))


def _decide(stored: StoredInquiry, request: ReleaseRequest, caller: Caller) -> None:
    """Raises ProblemError: none that waits, too many under way."""
    live = runtime()
    if stored.person_id == caller.person:
        raise ProblemError(403, "own-inquiry", "problem-own-inquiry")
    if request.approve and not _asker_counts(stored):
        raise ProblemError(409, "token-ended", "problem-token-ended")
    if request.approve and inquiry_of(stored).wants_whole:
        room_for_a_whole_result()
    try:
        ticket = live.inquiries.pool.reserve() if request.approve else None
    except Overloaded as full:
        raise ProblemError(
            429, "too-busy", "problem-inquiries-waiting", {"Retry-After": str(full.after_s)}, seconds=full.after_s
        ) from full

    def decide() -> None:
        found = StoredInquiry.objects.select_related("person").get(pk=stored.pk)
        inquiry = inquiry_of(found)
        if found.state != "held" or inquiry.hold is None:
            raise ProblemError(409, "not-held", "problem-not-held")
        inquiry.hold.approved, inquiry.hold.by, inquiry.hold.note = request.approve, caller.name, request.note
        kind = events.Released if request.approve else events.TurnedDown
        decided = kind(policy_line=inquiry.hold.policy_line)
        append(who=caller.name, what=decided, inquiry=stored.key, texts={"note": request.note})
        if request.approve:
            inquiry.state = "working"
            record = written(inquiry)
            StoredInquiry.objects.filter(pk=found.pk).update(state="working", record=record, decided_by=caller.person)
            return
        StoredInquiry.objects.filter(pk=found.pk).update(decided_by=caller.person)
        end_held(
            inquiry, inquiry.hold.policy_line, "not-released", "problem-not-released", request.note, who=caller.name
        )

    try:
        live.writer.do(decide)
    except BaseException:
        if ticket is not None:
            live.inquiries.pool.give_back()
        raise
    if ticket is None:
        live.bus.tell(stored.key, END)
        return
    stored.refresh_from_db()
    inquiry = inquiry_of(stored)
    assert inquiry.as_of is not None
    person = asker(stored.person.name, stored.roles, stored.values)
    live.inquiries.launch(ticket, inquiry, inquiry.as_of, person, caller.name)


def _asker_counts(stored: StoredInquiry) -> bool:
    """Whether the token that asked still counts; of older inquiries, which do not say, any token of that person."""
    if stored.token_id is not None:
        return Token.living().filter(pk=stored.token_id).exists()
    return Token.living().filter(person_id=stored.person_id).exists()
