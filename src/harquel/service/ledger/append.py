"""Adds an entry to the chain. Runs inside the writer, whose transaction holds the head."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from harquel.core.clock import utc_now
from harquel.core.ledger import EMPTY_HEAD, seal
from harquel.core.ledger import Head as ChainHead

from .models import Entry, EntryText, Head
from .sealing import sealer

_SEALED = frozenset({"service-started", "service-stopped", "ledger-sealed", "ledger-key-changed"})
"""Entries that bear a seal whatever their number."""


def append(
    *,
    who: str,
    kind: str,
    facts: Mapping[str, Any],
    texts: Mapping[str, str] | None = None,
    inquiry: str | None = None,
) -> int:
    """The new entry's number."""
    stored = Head.objects.filter(pk=1).first()
    previous = ChainHead(stored.seq, stored.digest) if stored else EMPTY_HEAD
    at = utc_now()
    sealed = seal(previous, at=at, who=who, kind=kind, inquiry=inquiry, facts=facts, texts=texts or {})
    entry = Entry.objects.create(
        seq=sealed.head.seq,
        digest=sealed.head.digest,
        body=sealed.body,
        at=at.isoformat(timespec="microseconds"),
        who=who,
        kind=kind,
        inquiry=inquiry,
    )
    if sealed.texts:
        EntryText.objects.bulk_create(
            EntryText(entry=entry, name=name, digest=digest, salt=salt, text=(texts or {})[name])
            for name, (digest, salt) in sealed.texts.items()
        )
    if not Head.objects.filter(pk=1).update(seq=sealed.head.seq, digest=sealed.head.digest):
        Head.objects.create(pk=1, seq=sealed.head.seq, digest=sealed.head.digest)
    sealing = sealer()
    if sealing is not None and (sealing.due(sealed.head.seq) or kind in _SEALED):
        sealing.seal(sealed.head)
    return sealed.head.seq
