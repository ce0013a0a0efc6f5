"""Rows of answers have a lifetime: older ones are blanked, in the records and beside the ledger; its chain still holds.

Question, sentence, SQL and digests stay; the statement can be run again.
"""

from __future__ import annotations

import datetime as dt
import threading
from collections.abc import Mapping
from typing import Final

from django.db.models import Q

from harquel.contract import events
from harquel.core.clock import utc_now
from harquel.service.ledger.append import append
from harquel.service.ledger.models import EntryText
from harquel.service.records.writer import Writer
from harquel.service.sources.live import LiveSource

from .models import ResultRows, StoredInquiry

_EVERY: Final = dt.timedelta(minutes=10)
_AT_ONCE: Final = 200
"""Inquiries whose rows are blanked in one transaction."""
_ROWS: Final = ("rows",)
"""Texts beside the ledger that hold rows."""


class Retention:
    """Blanks what has had its time, now and then."""

    def __init__(self, sources: Mapping[str, LiveSource], writer: Writer) -> None:
        self._sources, self._writer = sources, writer
        self._next = dt.datetime.min.replace(tzinfo=dt.UTC)
        self._lock = threading.Lock()

    def look(self, now: dt.datetime | None = None) -> int:
        """Does what is due; how many answers lost their rows."""
        now = now or utc_now()
        with self._lock:
            if now < self._next:
                return 0
            self._next = now + _EVERY
        return sum(self._of(name, source, now) for name, source in list(self._sources.items()))

    def _of(self, name: str, source: LiveSource, now: dt.datetime) -> int:
        days = source.core.policy.limits.rows_kept_days
        before, count = now - dt.timedelta(days=days), 0
        while True:
            done = self._writer.do(lambda: _blank(name, before, days))
            count += done
            if done < _AT_ONCE:
                return count


def _blank(source: str, before: dt.datetime, days: int) -> int:
    """The oldest of a source that still have rows. Runs inside the writer."""
    found = (
        StoredInquiry.objects.filter(source=source, state="ended", asked_at__lt=before)
        .filter(Q(result__rows__isnull=False) | Q(result__second__isnull=False)).order_by("pk")[:_AT_ONCE]
    )  # fmt: skip
    pairs = list(found.values_list("pk", "key"))
    if not pairs:
        return 0
    ResultRows.objects.filter(inquiry_id__in=[pk for pk, _ in pairs]).update(rows=None, second=None)
    texts = EntryText.objects.filter(entry__inquiry__in=[key for _, key in pairs], name__in=_ROWS)
    texts.update(text=None)
    append(who="service", what=events.RowsBlanked(source=source, answers=len(pairs), days=days))
    return len(pairs)
