"""Walks the whole chain and says whether it holds."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection
from django.db.models import Max

from harquel.contract import LedgerHead, Verification
from harquel.core.ledger import EMPTY_HEAD, Report, StoredEntry, StoredText, verify
from harquel.core.ledger import Head as ChainHead

from ..models import Entry, EntryText, Head
from .compare_records import compare_records


def verify_ledger(anchor: ChainHead | None = None) -> Verification:
    """Checks all that was written up to now. `anchor`: see core.

    What people see is held against the chain as well. Takes no lock: the service goes on writing meanwhile.
    """
    with _one_state():
        return _checked(anchor)


@contextmanager
def _one_state() -> Iterator[None]:
    """All that is read within it is of one moment; whoever writes is not held up."""
    with connection.cursor() as cursor:
        cursor.execute("BEGIN DEFERRED")
        try:
            yield
        finally:
            cursor.execute("ROLLBACK")


def _checked(anchor: ChainHead | None) -> Verification:
    noted = _head()
    report = verify(_stored(noted.seq), noted, anchor)
    newest = Entry.objects.aggregate(newest=Max("seq"))["newest"] or 0
    if report.intact and newest > _head().seq:
        report = Report(report.checked, report.head, newest, "stands behind the noted end of the chain")
    compared, differences = compare_records()
    return Verification(
        intact=report.intact and not differences,
        checked=report.checked,
        head=LedgerHead(seq=report.head.seq, digest=report.head.digest),
        fault_seq=report.fault_seq,
        fault=report.fault,
        compared=compared,
        differences=differences,
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
        yield StoredEntry(entry.seq, entry.digest, _bytes(entry.body), copies, beside)


def _bytes(body: object) -> bytes:
    """What lies in the column, whatever somebody has put there."""
    if isinstance(body, str):
        return body.encode("utf-8", "surrogatepass")
    return bytes(body) if isinstance(body, bytes | bytearray | memoryview) else b""
