"""Rows have a lifetime: older ones are blanked, in the records and beside the ledger; its chain still holds.

Question, sentence, SQL and digests stay; the statement can be run again. What must hold: of rows that came longer ago
than their source keeps them nothing is left, whatever they came for and whatever became of it. So they are looked for
where each of them is put down, at the entry that tells of their coming, and not by what was made of them.
"""

from __future__ import annotations

import datetime as dt
import json
import threading
from collections.abc import Iterator, Mapping
from typing import Final

from django.db.models import Q

from harquel.contract import events
from harquel.core.clock import utc_now
from harquel.core.domain.policy import Limits
from harquel.service.ledger.append import append
from harquel.service.ledger.models import Entry, EntryText
from harquel.service.open_links.models import StoredOpenLink
from harquel.service.outbox.models import StoredSending
from harquel.service.records.writer import Writer
from harquel.service.sources.live import LiveSource

from .models import ResultRows, StoredInquiry

_EVERY: Final = dt.timedelta(minutes=10)
_AT_ONCE: Final = 200
"""Entries with rows that are looked at together; what is due of them is blanked in one transaction."""
_ROWS: Final = "rows"
"""The text beside an entry that holds rows."""


class Retention:
    """Blanks what has had its time, now and then."""

    def __init__(self, sources: Mapping[str, LiveSource], writer: Writer) -> None:
        self._sources, self._writer = sources, writer
        self._next = dt.datetime.min.replace(tzinfo=dt.UTC)
        self._lock = threading.Lock()

    def look(self, now: dt.datetime | None = None) -> int:
        """Does what is due; of how many inquiries rows are gone now."""
        now = now or utc_now()
        with self._lock:
            if now < self._next:
                return 0
            self._next = now + _EVERY
        days = {name: source.core.policy.limits.rows_kept_days for name, source in list(self._sources.items())}
        count = 0
        for due in _due(days, now):
            count += sum(map(len, due.values()))
            self._writer.do(lambda due=due: _blank(due, days))  # type: ignore[misc]
        return count


def _kept(days: Mapping[str, int], source: str) -> int:
    """Days; what came from a source that is gone is kept as long as any is by default."""
    return days.get(source, Limits().rows_kept_days)


def _due(days: Mapping[str, int], now: dt.datetime) -> Iterator[dict[str, list[str]]]:
    """Inquiries whose rows have had their time, by source, the oldest first; rows that may stay are passed over."""
    youngest = now - dt.timedelta(days=min([*days.values(), Limits().rows_kept_days]))
    with_rows = EntryText.objects.filter(name=_ROWS, text__isnull=False, entry__inquiry__isnull=False)
    after = 0
    while True:
        page = list(
            with_rows.filter(entry_id__gt=after).order_by("entry_id")
            .values_list("entry_id", "entry__inquiry", "entry__at")[:_AT_ONCE]
        )  # fmt: skip
        came = {key: dt.datetime.fromisoformat(at) for _, key, at in page}
        sources = _sources_of(list(came))
        due: dict[str, list[str]] = {}
        for key, at in came.items():
            if at < now - dt.timedelta(days=_kept(days, sources.get(key, ""))):
                due.setdefault(sources.get(key, ""), []).append(key)
        if due:
            yield due
        if len(page) < _AT_ONCE or max(came.values()) >= youngest:
            return
        after = page[-1][0]


def _sources_of(keys: list[str]) -> dict[str, str]:
    """The source of each: of those that somebody asked, and of questions that we tried ourselves."""
    asked = dict(StoredInquiry.objects.filter(key__in=keys).values_list("key", "source"))
    ours = Entry.objects.filter(inquiry__in=[k for k in keys if k not in asked], kind="starter-tried")
    tried = ours.values_list("inquiry", "body")
    return asked | {key: json.loads(bytes(body))["facts"]["source"] for key, body in tried}


def _blank(due: Mapping[str, list[str]], days: Mapping[str, int]) -> None:
    """Runs inside the writer."""
    for source, keys in due.items():
        kept = ResultRows.objects.filter(Q(rows__isnull=False) | Q(second__isnull=False), inquiry__key__in=keys)
        kept.update(rows=None, second=None)
        EntryText.objects.filter(entry__inquiry__in=keys, name=_ROWS).update(text=None)
        # Whoever words an answer is shown its rows.
        asked = Entry.objects.filter(inquiry__in=keys, kind="prompted").values_list("seq", "body")
        shown = [seq for seq, body in asked if json.loads(bytes(body))["facts"].get("duty") == "word"]
        EntryText.objects.filter(entry_id__in=shown).update(text=None)
        # And so is whoever an answer was sent on to, and has not taken it yet.
        kept_bodies = StoredSending.objects.exclude(body=b"")
        kept_bodies.filter(inquiry__in=keys).update(body=b"")
        for one in StoredOpenLink.objects.exclude(page=b""):
            if set(one.inquiries) & set(keys):
                StoredOpenLink.objects.filter(pk=one.pk).update(page=b"")
        whole = [pk for pk, also in kept_bodies.exclude(also=[]).values_list("pk", "also") if set(also) & set(keys)]
        StoredSending.objects.filter(pk__in=whole).update(body=b"")
        append(who="service", what=events.RowsBlanked(source=source, answers=len(keys), days=_kept(days, source)))
