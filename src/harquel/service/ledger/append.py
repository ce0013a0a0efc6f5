"""Adds an entry to the chain. Runs inside the writer, whose transaction holds the head."""

from __future__ import annotations

import threading
from collections.abc import Mapping
from typing import NamedTuple

from harquel.contract.events import Happening
from harquel.core.clock import utc_now
from harquel.core.ledger import EMPTY_HEAD, seal
from harquel.core.ledger import Head as ChainHead
from harquel.service import metrics
from harquel.service.records import together

from .models import Entry, EntryText, Head
from .sealing import sealer

_SEALED = frozenset({"service-started", "service-stopped", "ledger-sealed", "ledger-key-changed"})
"""Entries that bear a seal whatever their number."""


class _Mark(NamedTuple):
    entries: int
    texts: int
    head: ChainHead | None


class _Waiting(threading.local):
    """Entries of the transaction under way that are written at its end, and the head as it is with them.

    The head is read once a transaction: whoever else writes to these records waits for its end.
    """

    gathers = False
    head: ChainHead | None = None

    def __init__(self) -> None:
        self.entries: list[Entry] = []
        self.texts: list[EntryText] = []

    def begin(self) -> None:
        self.gathers = True

    def mark(self) -> object:
        return _Mark(len(self.entries), len(self.texts), self.head)

    def back_to(self, mark: object) -> None:
        assert isinstance(mark, _Mark)
        del self.entries[mark.entries :], self.texts[mark.texts :]
        self.head = mark.head

    def write(self) -> None:
        if self.entries:
            assert self.head is not None
            Entry.objects.bulk_create(self.entries)
            if self.texts:
                EntryText.objects.bulk_create(self.texts)
            if not Head.objects.filter(pk=1).update(seq=self.head.seq, digest=self.head.digest):
                Head.objects.create(pk=1, seq=self.head.seq, digest=self.head.digest)

    def end(self) -> None:
        self.gathers, self.head = False, None
        self.entries, self.texts = [], []


_waiting = _Waiting()
together.also(_waiting)


def append(
    *,
    who: str,
    what: Happening,
    texts: Mapping[str, str] | None = None,
    inquiry: str | None = None,
) -> int:
    """The new entry's number. Inside the writer it is in the records when the transaction ends, not before."""
    if not _waiting.gathers:
        with together.gathering():
            return append(who=who, what=what, texts=texts, inquiry=inquiry)
    if _waiting.head is None:
        stored = Head.objects.filter(pk=1).first()
        _waiting.head = ChainHead(stored.seq, stored.digest) if stored else EMPTY_HEAD
    at, kind, texts = utc_now(), what.entry_kind, texts or {}
    assert texts.keys() <= set(what.texts), (kind, list(texts))
    sealed = seal(_waiting.head, at=at, who=who, kind=kind, inquiry=inquiry, facts=what.facts(), texts=texts)
    entry = Entry(
        seq=sealed.head.seq,
        digest=sealed.head.digest,
        body=sealed.body,
        at=at.isoformat(timespec="microseconds"),
        who=who,
        kind=kind,
        inquiry=inquiry,
    )
    _waiting.entries.append(entry)
    _waiting.texts += [
        EntryText(entry=entry, name=name, digest=digest, salt=salt, text=texts[name])
        for name, (digest, salt) in sealed.texts.items()
    ]
    _waiting.head = sealed.head
    metrics.ENTRIES.labels(kind).inc()
    sealing = sealer()
    if sealing is not None and (sealing.due(sealed.head.seq) or kind in _SEALED):
        sealing.seal(sealed.head)
    return sealed.head.seq
