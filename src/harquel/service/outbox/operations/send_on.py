"""Sends an answer on."""

from __future__ import annotations

import secrets
from typing import Final

from harquel.contract import Sending, SendRequest, events
from harquel.core.clock import utc_now
from harquel.service.errors import ProblemError
from harquel.service.inquiries.finding import INQUIRY
from harquel.service.inquiries.for_others import for_others
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.operations.draw import answer_of, must_have_rows
from harquel.service.inquiries.shapes import inquiry_of
from harquel.service.ledger.append import append
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime
from harquel.service.sources.finding import source_for

from ..making import Told, made_for
from ..models import StoredSending
from ..shapes import sending_shape

_NO_WAY: Final = {
    False: ("no-such-destination", "problem-no-such-destination"), True: ("no-mail", "problem-no-mail"),
}  # fmt: skip
MOST_WAITING: Final = 50
"""Sendings of one person that wait at once."""


@operation(
    "inquiry.send-on", takes=SendRequest, about=INQUIRY, scope="ask", gives=Sending, repeat="once",
    entries=("sent-on", "arrived", "not-arrived"),
    rule="one's own; to destinations and addresses that the source's policy names, for the roles that it names",
)  # fmt: skip
def send_on(call: Call[SendRequest, StoredInquiry]) -> Sending:
    """Has an answer of one's own sent to a destination of the configuration, as a signed message, or to an address, as
    mail: at least once, again and again until it is taken there.
    """
    stored, caller, to = call.about, call.caller, call.asked.to
    if stored.person_id != caller.person:
        raise ProblemError(403, "not-own-inquiry", "problem-not-own-sent")
    inquiry = inquiry_of(stored)
    must_have_rows(answer_of(inquiry))
    source = source_for(stored.source, caller)
    allowed, by_mail = source.core.policy.sending, "@" in to
    if allowed is None or not allowed.lets_by(to, caller.roles):
        raise ProblemError(403, "not-sent-there", "problem-not-sent-there", to=to)
    live = runtime()
    if not allowed.personal and not for_others(stored, caller, source):
        raise ProblemError(403, "not-for-others", "problem-not-for-others")
    if live.carriers.to(to) is None:
        raise ProblemError(409, *_NO_WAY[by_mail], to=to)
    if StoredSending.objects.filter(person_id=caller.person, state="waiting").count() >= MOST_WAITING:
        raise ProblemError(429, "too-many-sendings", "problem-too-many-sendings", {"Retry-After": "60"})
    key, at = f"msg_{secrets.token_hex(12)}", utc_now()
    body = made_for(Told(key, to, at, caller.name), stored, True, call.asked.attach)

    def store() -> Sending:
        if (before := call.once.earlier()) is not None:
            return sending_shape(StoredSending.objects.select_related("person").get(key=before))
        made = StoredSending.objects.create(
            key=key, at=at, next_at=at, person_id=caller.person, inquiry=stored.key, destination=to, body=body
        )
        append(who=caller.name, what=events.SentOn(sending=key, destination=to), inquiry=stored.key)
        call.once.settle(key)
        return sending_shape(made)

    found = live.writer.do(store)
    live.outbox.wake()
    return found
