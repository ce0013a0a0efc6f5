"""Walks the whole chain and says whether it holds."""

from __future__ import annotations

from collections.abc import Iterator

from django.db import transaction

from harquel.contract import LedgerHead, Verification
from harquel.core.ledger import EMPTY_HEAD, StoredEntry, StoredText, verify
from harquel.core.ledger import Head as ChainHead

from ..models import Entry, EntryText, Head


def verify_ledger(anchor: ChainHead | None = None) -> Verification:
    """Reads from one snapshot, so that entries written meanwhile do not disturb. `anchor`: see core."""
    with transaction.atomic():
        head = Head.objects.filter(pk=1).first()
        noted = ChainHead(head.seq, head.digest) if head else EMPTY_HEAD
        report = verify(_stored(), noted, anchor)
    return Verification(
        intact=report.intact,
        checked=report.checked,
        head=LedgerHead(seq=report.head.seq, digest=report.head.digest),
        fault_seq=report.fault_seq,
        fault=report.fault,
    )


def _stored() -> Iterator[StoredEntry]:
    texts = EntryText.objects.order_by("entry_id", "pk").values_list("entry_id", "name", "digest", "salt", "text")
    waiting = texts.iterator(chunk_size=2000)
    text = next(waiting, None)
    for entry in Entry.objects.order_by("seq").iterator(chunk_size=2000):
        beside = {}
        while text is not None and text[0] <= entry.seq:
            if text[0] == entry.seq:
                beside[text[1]] = StoredText(text[2], text[3], text[4])
            text = next(waiting, None)
        copies = {"at": entry.at, "who": entry.who, "kind": entry.kind, "inquiry": entry.inquiry}
        yield StoredEntry(entry.seq, entry.digest, bytes(entry.body), copies, beside)
