"""Stops an inquiry, down to the database. Stopping what has ended changes nothing."""

from __future__ import annotations

from harquel.contract import events
from harquel.service.bus import END
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..ending import end_held
from ..finding import INQUIRY
from ..models import StoredInquiry
from ..shapes import inquiry_of


@operation(
    "inquiry.cancel", takes=Nothing, scope="ask", about=INQUIRY, repeat="same",
    # Whoever takes back a held one ends it at once.
    entries=("cancel-asked", "ended"), rule="one's own; what runs of others with admin; what is held never",
)  # fmt: skip
def cancel(call: Call[Nothing, StoredInquiry]) -> None:
    """Asks for it to stop; it ends within a second, and the end follows in the stream."""
    stored, caller = call.about, call.caller
    live = runtime()
    if stored.person_id != caller.person and (stored.state == "held" or not caller.may("admin")):
        raise ProblemError(403, "not-yours", "problem-not-yours")
    if stored.state == "held":
        live.writer.do(lambda: _take_back(stored.pk))
        live.bus.tell(stored.key, END)
        return
    if stored.state != "ended" and live.inquiries.pool.cancel(stored.key):
        live.writer.do(lambda: append(who=caller.name, what=events.CancelAsked(), inquiry=stored.key))


def _take_back(pk: int) -> None:
    """Unless somebody has decided in between. Runs inside the writer."""
    found = StoredInquiry.objects.select_related("person").get(pk=pk)
    inquiry = inquiry_of(found)
    if found.state == "held" and inquiry.hold is not None:
        end_held(inquiry, inquiry.hold.policy_line, "cancelled", "problem-taken-back")
