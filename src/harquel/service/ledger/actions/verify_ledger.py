"""Walks the whole chain and says whether it holds."""

from __future__ import annotations

from collections.abc import Iterator

from django.db.models import Max

from harquel.contract import LedgerHead, Verification
from harquel.core.ledger import EMPTY_HEAD, Report, StoredEntry, StoredText, verify
from harquel.core.ledger import Head as ChainHead

from ..models import Entry, EntryText, Head


def verify_ledger(anchor: ChainHead | None = None) -> Verification:
    """Checks all that was written up to now. `anchor`: see core.

    Takes no lock: entries are only ever added, so those up to the head that is read first stay as they
    are while the service goes on writing behind them.
    """
    noted = _head()
    report = verify(_stored(noted.seq), noted, anchor)
    newest = Entry.objects.aggregate(newest=Max("seq"))["newest"] or 0
    if report.intact and newest > _head().seq:
        report = Report(report.checked, report.head, newest, "stands behind the noted end of the chain")
    return Verification(
        intact=report.intact,
        checked=report.checked,
        head=LedgerHead(seq=report.head.seq, digest=report.head.digest),
        fault_seq=report.fault_seq,
        fault=report.fault,
    )


def _head() -> ChainHead:
    head = Head.objects.filter(pk=1).first()
    return ChainHead(head.seq, head.digest) if head else EMPTY_HEAD


def _stored(last: int) -> Iterator[StoredEntry]:
    texts = (
        EntryText.objects.filter(entry_id__lte=last)
        .order_by("entry_id", "pk")
        .values_list("entry_id", "name", "digest", "salt", "text")
    )
    waiting = texts.iterator(chunk_size=2000)
    text = next(waiting, None)
    for entry in Entry.objects.filter(seq__lte=last).order_by("seq").iterator(chunk_size=2000):
        beside = {}
        while text is not None and text[0] <= entry.seq:
            if text[0] == entry.seq:
                beside[text[1]] = StoredText(text[2], text[3], text[4])
            text = next(waiting, None)
        copies = {"at": entry.at, "who": entry.who, "kind": entry.kind, "inquiry": entry.inquiry}
        yield StoredEntry(entry.seq, entry.digest, bytes(entry.body), copies, beside)
