"""Stops an inquiry, down to the database. Stopping what has ended changes nothing."""

from __future__ import annotations

from harquel.service.access.models import Token
from harquel.service.bus import END
from harquel.service.ledger.append import append
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime

from ..models import StoredInquiry
from ..shapes import inquiry_shape
from .find import find_inquiry
from .release import end_held


def cancel(key: str, token: Token) -> None:
    """Returns at once; the end follows in the stream. Raises ProblemError when there is no such inquiry."""
    stored = find_inquiry(key, token)
    live = runtime()
    if stored.person_id != token.person_id and (stored.state == "held" or "admin" not in token.scopes):
        raise ProblemError(
            403, "not-yours", "Only whoever asked stops an inquiry.",
            "Turn a held statement down instead; an administrator can stop what runs.",
        )  # fmt: skip
    if stored.state == "held":
        live.writer.do(lambda: _take_back(stored.pk))
        live.bus.tell(key, END)
        return
    if stored.state != "ended" and live.pool.cancel(key):
        live.writer.do(lambda: append(who=token.person.name, kind="cancel-asked", inquiry=key, facts={}))


def _take_back(pk: int) -> None:
    """Unless somebody has decided in between. Runs inside the writer."""
    found = StoredInquiry.objects.select_related("person").get(pk=pk)
    inquiry = inquiry_shape(found)
    if found.state == "held" and inquiry.hold is not None:
        said = "The inquiry was stopped while its statement was held."
        end_held(inquiry, inquiry.hold.policy_line, "cancelled", said, "")
