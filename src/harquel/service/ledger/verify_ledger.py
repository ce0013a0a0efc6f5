"""Walks the whole chain and says whether it holds."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection
from django.db.models import Max

from harquel.contract import LedgerHead, Verification
from harquel.core.ledger import EMPTY_HEAD, Report, StoredEntry, StoredText, verify
from harquel.core.ledger import Head as ChainHead
from harquel.core.ledger.seals import Seal, fault_of, missing

from .compare_records import compare_records
from .models import Entry, EntryText, Head, StoredSeal
from .sealing import sealer

_AT_ONCE = 10_000
"""Numbers in one query: SQLite takes some 32,000."""


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
    sealed, report = _seals(report)
    # With a chain that is broken nothing can be compared: what it says is not to be trusted.
    compared, differences = compare_records() if report.fault is None else (0, [])
    sealing = sealer()
    return Verification(
        intact=report.intact and not differences,
        sealed=sealed,
        keys=list(sealing.public()) if sealing is not None else [],
        unseen=_unseen(sealed, report.head.seq, anchor),
        checked=report.checked,
        head=LedgerHead(seq=report.head.seq, digest=report.head.digest),
        fault_seq=report.fault_seq,
        fault=report.fault,
        compared=compared,
        differences=differences,
    )


def _seals(report: Report) -> tuple[int | None, Report]:
    """The last good seal, and the report with what the seals show. A chain that is broken is not looked at further."""
    sealing = sealer()
    if sealing is None or not report.intact:
        return None, report
    stored = [Seal(s.seq, s.digest, s.at, s.key, s.signature) for s in StoredSeal.objects.order_by("seq")]
    keys, good = sealing.public(), None
    both = sorted({*stored, *sealing.anchored()}, key=lambda s: s.seq)
    digests: dict[int, str] = {}
    for start in range(0, len(both), _AT_ONCE):
        some = [s.seq for s in both[start : start + _AT_ONCE]]
        digests |= dict(Entry.objects.filter(seq__in=some).values_list("seq", "digest"))
    for seal in both:
        fault = fault_of(seal, keys, digests.get)
        if fault is not None:
            return good, Report(report.checked, report.head, seal.seq, fault)
        good = seal.seq
    absent = missing(stored, report.head.seq, _sealed_since())
    if absent is not None:
        return good, Report(report.checked, report.head, absent, "its seal was taken away")
    return good, report


def _sealed_since() -> int | None:
    """The first start that says with which key it seals: in the chain, so that it cannot be taken back unseen."""
    for seq, body in Entry.objects.filter(kind="service-started").order_by("seq").values_list("seq", "body"):
        if json.loads(bytes(body))["facts"].get("sealed_with"):
            return int(seq)
    return None


def _unseen(sealed: int | None, last: int, anchor: ChainHead | None) -> str:
    """What cannot be seen from here."""
    noted = max(sealed or 0, anchor.seq if anchor is not None else 0)
    if noted >= last:
        return ""
    return (
        f"Entries after {noted:,} bear no seal yet: only a head or a seal noted elsewhere could show that somebody who "
        "can write to the records has replaced them or cut them off."
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
