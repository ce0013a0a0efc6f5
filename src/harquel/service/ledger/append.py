"""Adds an entry to the chain. Runs inside the writer, whose transaction holds the head."""

from __future__ import annotations

import threading
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from django.db import connection, transaction

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


class _Known(NamedTuple):
    """The head as we wrote it, and what tells whether anybody else has written since."""

    head: ChainHead
    line: object
    version: int


class _Waiting(threading.local):
    """Entries of the transaction under way that are written at its end, and the head as it is with them.

    Whoever else writes to these records waits for its end. The head is not read again where it was written from here
    and nothing was by anybody else: SQLite counts for each connection what others have committed (data_version).
    """

    gathers = False
    head: ChainHead | None = None
    known: _Known | None = None

    def __init__(self) -> None:
        self.entries: list[Entry] = []
        self.texts: list[EntryText] = []
        self._version = 0

    def stored(self) -> ChainHead:
        """The head as it is in the records. Call within a transaction."""
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA data_version")
            (self._version,) = cursor.fetchone()
        known = self.known
        if known is not None and known.line is connection.connection and known.version == self._version:
            return known.head
        found = Head.objects.filter(pk=1).first()
        return ChainHead(found.seq, found.digest) if found else EMPTY_HEAD

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
            # It is known again when the transaction is committed, and not otherwise.
            written, self.known = _Known(self.head, connection.connection, self._version), None
            kinds = [entry.kind for entry in self.entries]
            transaction.on_commit(lambda: self._remember(written, kinds))
            Entry.objects.bulk_create(self.entries)
            if self.texts:
                EntryText.objects.bulk_create(self.texts)
            if not Head.objects.filter(pk=1).update(seq=self.head.seq, digest=self.head.digest):
                Head.objects.create(pk=1, seq=self.head.seq, digest=self.head.digest)

    def _remember(self, written: _Known, kinds: Sequence[str]) -> None:
        self.known = written
        for kind in kinds:
            metrics.ENTRIES.labels(kind).inc()

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
        _waiting.head = _waiting.stored()
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
    sealing = sealer()
    if sealing is not None and (sealing.due(sealed.head.seq) or kind in _SEALED):
        sealing.seal(sealed.head)
    return sealed.head.seq
