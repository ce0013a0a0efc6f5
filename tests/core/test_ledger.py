"""The chain: any change to a stored field, a removal or another order is found and the entry named."""

from __future__ import annotations

import dataclasses
import datetime as dt
from collections.abc import Callable
from typing import Any

import pytest

from harquel.core.ledger import EMPTY_HEAD, Head, StoredEntry, StoredText, seal, verify

AT = dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC)


def chain(length: int) -> tuple[list[StoredEntry], Head]:
    """Entries as the records would hold them, with their head."""
    head, entries = EMPTY_HEAD, []
    for number in range(length):
        text = f"SELECT {number}"
        sealed = seal(
            head, at=AT, who="Ada", kind="ran", inquiry="q1", facts={"rows": number, "big": 2**60, "odd": float("nan")},
            texts={"sql": text},
        )  # fmt: skip
        head = sealed.head
        copies = {"who": "Ada", "kind": "ran", "inquiry": "q1", "at": AT.isoformat(timespec="microseconds")}
        texts = {name: StoredText(digest, salt, text) for name, (digest, salt) in sealed.texts.items()}
        entries.append(StoredEntry(head.seq, head.digest, sealed.body, copies, texts))
    return entries, head


def test_an_untouched_chain_holds() -> None:
    entries, head = chain(20)
    report = verify(entries, head, anchor=Head(7, entries[6].digest))
    assert (report.intact, report.checked, report.head) == (True, 20, head)


def test_a_blanked_text_does_not_break_the_chain() -> None:
    entries, head = chain(3)
    blank = dataclasses.replace(entries[1].texts["sql"], text=None)
    entries[1] = dataclasses.replace(entries[1], texts={"sql": blank})
    assert verify(entries, head).intact


CHANGES: dict[str, Callable[[StoredEntry], Any]] = {
    "body": lambda e: {"body": e.body.replace(b'"rows":4', b'"rows":5')},
    "digest": lambda e: {"digest": "0" * 64},
    "number": lambda e: {"seq": 50},
    "who beside it": lambda e: {"copies": {**e.copies, "who": "Bram"}},
    "kind beside it": lambda e: {"copies": {**e.copies, "kind": "ended"}},
    "inquiry beside it": lambda e: {"copies": {**e.copies, "inquiry": None}},
    "time beside it": lambda e: {"copies": {**e.copies, "at": "2026-09-14T10:00:00.000001+00:00"}},
    "text": lambda e: {"texts": {"sql": dataclasses.replace(e.texts["sql"], text="SELECT 99")}},
    "digest of a text": lambda e: {"texts": {"sql": dataclasses.replace(e.texts["sql"], digest="0" * 64)}},
    "salt of a text": lambda e: {"texts": {"sql": dataclasses.replace(e.texts["sql"], salt="00" * 16)}},
    "text taken away": lambda e: {"texts": {}},
    "text added": lambda e: {"texts": {**e.texts, "more": StoredText("0" * 64, "00", "x")}},
}


@pytest.mark.parametrize("change", CHANGES)
def test_a_changed_field_is_found_and_the_entry_named(change: str) -> None:
    entries, head = chain(9)
    entries[4] = dataclasses.replace(entries[4], **CHANGES[change](entries[4]))
    report = verify(entries, head)
    assert (report.intact, report.fault_seq, report.checked) == (False, 5, 4)


def test_a_recomputed_digest_breaks_the_entry_after_it() -> None:
    import hashlib

    entries, head = chain(9)
    body = entries[4].body.replace(b'"rows":4', b'"rows":5')
    entries[4] = dataclasses.replace(entries[4], body=body, digest=hashlib.sha256(body).hexdigest())
    assert verify(entries, head).fault_seq == 6


@pytest.mark.parametrize("gone", [0, 4, 8])
def test_a_removed_entry_is_named_even_the_last(gone: int) -> None:
    entries, head = chain(9)
    del entries[gone]
    assert verify(entries, head).fault_seq == gone + 1


def test_swapped_entries_are_found() -> None:
    entries, head = chain(9)
    entries[3], entries[4] = entries[4], entries[3]
    assert verify(entries, head).fault_seq == 4


def test_an_anchor_finds_a_chain_that_was_written_anew() -> None:
    entries, _ = chain(9)
    other, head = chain(9)
    assert verify(other, head).intact
    assert verify(other, head, anchor=Head(5, entries[4].digest)).fault_seq == 5
    assert not verify(other[:3], Head(3, other[2].digest), anchor=Head(5, entries[4].digest)).intact
