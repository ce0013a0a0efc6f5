"""Open links of answers: made, looked at, ended."""

from __future__ import annotations

from typing import Final

from django.db.models import QuerySet

from harquel.contract import OpenLinkMade, OpenLinkRequest, OpenLinks, events
from harquel.core.answers.exports import for_strangers
from harquel.core.clock import utc_now
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError, not_found
from harquel.service.inquiries.finding import INQUIRY
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.operations.draw import answer_of, must_have_rows
from harquel.service.inquiries.pictures import chart_of
from harquel.service.inquiries.shapes import inquiry_of, shape_of
from harquel.service.inquiries.shown import without_since
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, Nothing, Subject, operation
from harquel.service.runtime import runtime

from ..holding import open_link_shape
from ..making import Shown, make
from ..models import StoredOpenLink

_SHOWN: Final = 200
_RULE: Final = "one's own; with admin anybody's"


@operation(
    "inquiry.share", takes=OpenLinkRequest, about=INQUIRY, scope="ask", gives=OpenLinkMade, repeat="anew",
    entries=("open-link-made", "open-link-opened", "open-link-ended"),
    rule="one's own; where the policy of its source has such links, for the roles that it names",
)  # fmt: skip
def share_answer(call: Call[OpenLinkRequest, StoredInquiry]) -> OpenLinkMade:
    """Makes a link by which people without an account see an answer of one's own as it is now, for some days: without
    the statement, the source or anything else that it stands on.
    """
    stored, caller = call.about, call.caller
    if stored.person_id != caller.person:
        raise ProblemError(403, "not-own-inquiry", "problem-not-own-sent")
    found = inquiry_of(stored)
    must_have_rows(answer_of(found))
    inquiry = without_since(shape_of(found, None))

    def page(line: str) -> bytes:
        return for_strangers(inquiry, line, chart_of(found, "svg"))

    title = found.standalone_question or found.question
    return make(Shown([stored], title, found.language, page, inquiry=stored.key), call.asked, caller)


def _visible(caller: Caller) -> QuerySet[StoredOpenLink]:
    found = StoredOpenLink.objects.select_related("person")
    return found if caller.may("admin") else found.filter(person_id=caller.person)


def _find(key: str, caller: Caller) -> StoredOpenLink:
    found = _visible(caller).filter(key=key).first()
    if found is None:
        raise not_found("problem-unknown-open-link", key)
    return found


_LINK: Final = Subject("open link", "link", _find, _RULE)


@operation("open-link.list", takes=Nothing, about=NO_SUBJECT, gives=OpenLinks, rule=_RULE)
def list_open_links(call: Call[Nothing, None]) -> OpenLinks:
    """The newest links for people without an account: whether they hold, and how often they were opened."""
    return OpenLinks([open_link_shape(one) for one in _visible(call.caller).order_by("-pk")[:_SHOWN]])


@operation("open-link.end", takes=Nothing, about=_LINK, repeat="same", entries=("open-link-ended",), scope="ask")
def end_open_link(call: Call[Nothing, StoredOpenLink]) -> None:
    """Ends one: its page is shown to nobody from now on, and blanked."""

    def end() -> None:
        waits = StoredOpenLink.objects.filter(pk=call.about.pk, ended_at=None)
        if waits.update(ended_at=utc_now(), page=b""):
            append(who=call.caller.name, what=events.OpenLinkEnded(link=call.about.key))

    runtime().writer.do(end)
