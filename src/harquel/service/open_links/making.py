"""Makes an open link of a page that is ready."""

from __future__ import annotations

import datetime as dt
import hashlib
import secrets
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

from harquel.contract import OpenLinkMade, OpenLinkRequest, events
from harquel.contract.figures import in_a_line
from harquel.core.clock import utc_now
from harquel.core.language.say import say
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.inquiries.for_others import for_others
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.ledger.append import append
from harquel.service.runtime import runtime
from harquel.service.sources.finding import source_for

from .holding import must_be_shared, open_link_shape
from .models import StoredOpenLink

MOST: Final = 100
"""Open links of one person that hold."""
LARGEST: Final = 5_000_000
"""Bytes of a page."""
_SECRET_BYTES: Final = 32


@dataclass(frozen=True)
class Shown:
    """What is to be shown: the answers on it, what it is called, in which language, and the page once it is known how
    long it holds (a line that says so is given).
    """

    inquiries: Sequence[StoredInquiry]
    title: str
    language: str
    page: Callable[[str], bytes]
    inquiry: str = ""
    casebook: str = ""


def digest_of(secret: str) -> str:
    """By which it is found."""
    return hashlib.sha256(secret.encode()).hexdigest()


def make(what: Shown, wish: OpenLinkRequest, caller: Caller) -> OpenLinkMade:
    """Raises ProblemError: not by the policy of each source, something personal, too many, too long, too large."""
    for stored in what.inquiries:
        terms = must_be_shared(stored.source, caller)
        if wish.days > terms.days:
            raise ProblemError(422, "too-long", "problem-shared-too-long", days=terms.days)
        if not terms.personal and not for_others(stored, caller, source_for(stored.source, caller)):
            raise ProblemError(403, "not-for-others", "problem-not-for-others")
    now = utc_now()
    # One more than can hold is refused before anything is drawn.
    held = StoredOpenLink.objects.filter(person_id=caller.person, ended_at=None, until__gt=now).count()
    if held >= MOST:
        raise ProblemError(429, "too-many-links", "problem-too-many-links", n=MOST)
    until = now + dt.timedelta(days=wish.days)
    line = say(
        what.language, "open-link-line", name=caller.name, at=f"{now:%Y-%m-%d %H:%M} UTC",
        until=f"{until:%Y-%m-%d %H:%M} UTC",
    )  # fmt: skip
    page, secret = what.page(line), secrets.token_urlsafe(_SECRET_BYTES)
    if len(page) > LARGEST:
        raise ProblemError(413, "too-large", "problem-shared-too-large")

    def store() -> StoredOpenLink:
        made = StoredOpenLink.objects.create(
            key=f"ol_{secrets.token_hex(8)}", digest=digest_of(secret), person_id=caller.person, token_id=caller.token,
            inquiry=what.inquiry, casebook=what.casebook, inquiries=[one.key for one in what.inquiries],
            title=in_a_line(what.title, 200), note=in_a_line(wish.note, 200), page=page, made_at=now, until=until,
        )  # fmt: skip
        about = events.OpenLinkMade(
            link=made.key, casebook=what.casebook, days=wish.days, token=caller.token,
            digest=hashlib.sha256(page).hexdigest(),
        )  # fmt: skip
        append(who=caller.name, what=about, inquiry=what.inquiry or None)
        return made

    live = runtime()
    made = live.writer.do(store)
    return OpenLinkMade(**open_link_shape(made).model_dump(), url=f"{live.config.reached_at}/shared/{secret}")
