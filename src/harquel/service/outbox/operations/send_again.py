"""Tries again what was given up."""

from __future__ import annotations

from harquel.contract import Sending, events
from harquel.core.clock import utc_now
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..models import StoredSending
from ..shapes import sending_shape
from .list_sendings import SENDING


@operation(
    "sending.again", takes=Nothing, about=SENDING, scope="ask", gives=Sending, repeat="same",
    entries=("sent-on", "arrived", "not-arrived"), rule="one that was given up",
)  # fmt: skip
def send_again(call: Call[Nothing, StoredSending]) -> Sending:
    """Has a sending that was given up tried again, as if it were new. Raises ProblemError for any other."""
    one, live = call.about, runtime()
    if one.state == "given-up" and not one.body:
        raise ProblemError(410, "no-longer-kept", "problem-rows-no-longer-kept")

    def again() -> bool:
        waits = StoredSending.objects.filter(pk=one.pk, state="given-up")
        done = waits.update(state="waiting", tries=0, next_at=utc_now(), ended_at=None, said="")
        if done:
            what = events.SentOn(sending=one.key, destination=one.destination)
            append(who=call.caller.name, what=what, inquiry=one.inquiry or None)
        return bool(done)

    if not live.writer.do(again):
        raise ProblemError(409, "not-given-up", "problem-not-given-up")
    live.outbox.wake()
    return sending_shape(StoredSending.objects.select_related("person").get(pk=one.pk))
