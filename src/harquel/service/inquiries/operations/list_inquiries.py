"""The list of what was asked."""

from __future__ import annotations

from typing import get_args

from django.db.models import Q

from harquel.contract import InquiryPage
from harquel.contract.inquiry import Outcome, State
from harquel.contract.queries import InquiryQuery
from harquel.core.language.say import said_as
from harquel.core.nearest import nearest
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.operations import NO_SUBJECT, Call, operation
from harquel.service.pages import page
from harquel.service.runtime import runtime

from ..finding import INQUIRY, visible_inquiries
from ..shapes import line_shape


@operation("inquiry.list", takes=InquiryQuery, gives=InquiryPage, about=NO_SUBJECT, rule=INQUIRY.whose)
def list_inquiries(call: Call[InquiryQuery, None]) -> InquiryPage:
    """A page of inquiries, newest first: one's own, or all with the scope audit."""
    found = visible_inquiries(call.caller)
    for name in ("source", "outcome", "state"):
        wanted = getattr(call.asked, name)
        if wanted:
            _known(name, wanted, call.caller)
            found = found.filter(**{name: wanted})
    if call.asked.thread:
        found = found.filter(Q(thread=call.asked.thread) | Q(key=call.asked.thread))
    items, following = page(call.asked, found, line_shape)
    return InquiryPage(items=items, next=following)


def _known(name: str, wanted: str, caller: Caller) -> None:
    """Raises ProblemError for what no inquiry can have, with the nearest that one can."""
    known = {"outcome": get_args(Outcome), "state": get_args(State)}.get(name)
    if known is None:
        # Sources that are gone are still asked about: what was asked of them stays.
        asked = visible_inquiries(caller).values_list("source", flat=True).distinct()
        known = tuple(sorted({*(n for n in runtime().sources if caller.sees(n)), *asked}))
    if wanted in known:
        return
    near = nearest(wanted, known)
    hint = said_as("did-you-mean", name=near[0]) if near else said_as("known-are", names=", ".join(known) or "–")
    raise ProblemError(
        422,
        f"unknown-{name}",
        f"problem-not-known-{name}",
        name=wanted,
        hint=hint,
    )
