"""What is sent on."""

from __future__ import annotations

from typing import Final

from django.db.models import Q, QuerySet

from harquel.contract import Sendings
from harquel.service.access.caller import Caller
from harquel.service.errors import not_found
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.operations import NO_SUBJECT, Call, Nothing, Subject, operation

from ..models import StoredSending
from ..shapes import sending_shape

_SHOWN: Final = 200


def visible(caller: Caller) -> QuerySet[StoredSending]:
    """One's own; with the scope audit those of everybody, of the sources of this caller."""
    found = StoredSending.objects.select_related("person")
    if not caller.may("audit"):
        return found.filter(person_id=caller.person)
    if caller.everywhere:
        return found
    seen = StoredInquiry.objects.filter(source__in=caller.sources).values("key")
    return found.filter(Q(inquiry__in=seen) | Q(person_id=caller.person))


def find_sending(key: str, caller: Caller) -> StoredSending:
    """Raises ProblemError when there is none, or none for this caller."""
    found = visible(caller).filter(key=key).first()
    if found is None:
        raise not_found("problem-unknown-sending", key)
    return found


SENDING: Final = Subject("sending", "sending", find_sending, "one's own; with audit anybody's")


@operation("sending.list", takes=Nothing, about=NO_SUBJECT, gives=Sendings, rule="one's own; with audit anybody's")
def list_sendings(call: Call[Nothing, None]) -> Sendings:
    """The newest answers that were sent on: where to, whether they have arrived, why not."""
    return Sendings([sending_shape(one) for one in visible(call.caller).order_by("-pk")[:_SHOWN]])
