"""Whether an open link holds, and how it is told.

What must hold: a page is shown only while its time lasts, nobody has ended it, its maker's token counts, its rows are
kept, nothing stands still, and the policy of every source on it, as it is now, still has such links.
"""

from __future__ import annotations

from harquel.contract import OpenLink
from harquel.core.clock import utc_now
from harquel.core.domain.policy import Sharing
from harquel.service.access.caller import Caller
from harquel.service.access.models import Token
from harquel.service.errors import ProblemError
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.runtime import runtime

from .models import StoredOpenLink


def terms_of(source: str) -> Sharing | None:
    """What the policy of a source, as it is now, says of such links; None: there are to be none."""
    found = runtime().sources.get(source)
    return found.core.policy.sharing if found is not None and found.enabled else None


def must_be_shared(source: str, caller: Caller) -> Sharing:
    """Raises ProblemError where a caller may not have an answer of a source shown to people without an account."""
    terms = terms_of(source) if caller.sees(source) else None
    if terms is None or not terms.lets(caller.roles):
        raise ProblemError(403, "not-shared", "problem-not-shared", source=source)
    return terms


def why_not(link: StoredOpenLink) -> str:
    """Why it shows nothing; empty: it does."""
    if link.ended_at is not None:
        return "it was ended"
    if link.until <= utc_now():
        return "its time is over"
    if not Token.living().filter(pk=link.token_id).exists():
        return "the token that it was made by counts no more"
    if not link.page:
        return "its rows are kept no more"
    sources = set(StoredInquiry.objects.filter(key__in=link.inquiries).values_list("source", flat=True))
    if not sources or any(terms_of(source) is None for source in sources):
        return "the policy of its source has no such links any more"
    return ""


def open_link_shape(link: StoredOpenLink) -> OpenLink:
    """One, without its address."""
    why = why_not(link)
    return OpenLink(
        id=link.key, title=link.title, inquiry=link.inquiry or None, casebook=link.casebook or None,
        made_by=link.person.name, made_at=link.made_at, until=link.until, note=link.note,
        holds=not why, why_ended=why, opened=link.opened, opened_at=link.opened_at,
    )  # fmt: skip
