"""The page behind an open link: as it was made, with headers that keep it to itself."""

from __future__ import annotations

import datetime as dt
import re
import threading
import time
from html import escape
from typing import Final

from django.db.models import F
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_safe

from harquel.contract import events
from harquel.core.answers.exports import paper
from harquel.core.clock import utc_now
from harquel.core.language.say import say
from harquel.service.errors import spoken
from harquel.service.ledger.append import append
from harquel.service.runtime import runtime

from .holding import why_not
from .making import digest_of
from .models import StoredOpenLink

_SECRET: Final = re.compile(r"[A-Za-z0-9_-]{43}")
_HEADERS: Final = {
    "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'; "
    "base-uri 'none'; form-action 'none'; sandbox allow-popups",
    "X-Robots-Tag": "noindex, nofollow, noarchive, nosnippet", "Referrer-Policy": "no-referrer",
    "X-Content-Type-Options": "nosniff", "X-Frame-Options": "DENY", "Cache-Control": "no-store",
}  # fmt: skip
_TOLD_AGAIN: Final = dt.timedelta(hours=1)
"""How often it goes on record that somebody has opened one."""


class _Counted:
    """At most one opening a second of a link is written down, however many there are."""

    def __init__(self) -> None:
        self._lock, self._last = threading.Lock(), dict[int, float]()

    def due(self, number: int) -> bool:
        """Whether this one is."""
        with self._lock:
            now = time.monotonic()
            if now - self._last.get(number, -1.0) < 1.0:
                return False
            if len(self._last) > 10_000:
                self._last.clear()
            self._last[number] = now
            return True


_counted: Final = _Counted()


@require_safe
def shared(request: HttpRequest, secret: str) -> HttpResponse:
    """What a link shows; where it shows nothing, whatever the reason, the same page says so."""
    found = StoredOpenLink.objects.filter(digest=digest_of(secret)).first() if _SECRET.fullmatch(secret) else None
    if found is None or runtime().sources.standing_still() or why_not(found):
        language = spoken(request.headers)
        title, hint = say(language, "open-link-none"), say(language, "open-link-none.hint")
        body = f"<h1>{escape(title)}</h1><p>{escape(hint)}</p>"
        return HttpResponse(paper(language, title, body), status=404, headers=_HEADERS)
    if request.method == "GET" and _counted.due(found.pk):
        _opened(found)
    return HttpResponse(bytes(found.page), headers=_HEADERS)


def _opened(link: StoredOpenLink) -> None:
    now = utc_now()

    def note() -> None:
        StoredOpenLink.objects.filter(pk=link.pk).update(opened=F("opened") + 1, opened_at=now)
        if link.opened_at is None or now - link.opened_at >= _TOLD_AGAIN:
            append(
                who="somebody with the link", what=events.OpenLinkOpened(link=link.key), inquiry=link.inquiry or None
            )

    runtime().writer.do(note)
