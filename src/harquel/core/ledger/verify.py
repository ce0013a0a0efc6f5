"""Checks a stored chain: every byte of every entry, their order, and the texts that still lie there."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from .chain import EMPTY_HEAD, Head, text_digest

_FIELDS = frozenset({"v", "seq", "prev", "at", "who", "kind", "inquiry", "facts", "texts"})


@dataclass(frozen=True)
class StoredText:
    """A text beside an entry; `text` is None once it was blanked."""

    digest: str
    salt: str
    text: str | None


@dataclass(frozen=True)
class StoredEntry:
    """An entry as the records hold it. `copies` are columns that repeat fields of the body."""

    seq: int
    digest: str
    body: bytes
    copies: Mapping[str, Any]
    texts: Mapping[str, StoredText]


@dataclass(frozen=True)
class Report:
    """`head` is the last entry that was found good; `fault_seq` the entry that breaks the chain."""

    checked: int
    head: Head
    fault_seq: int | None = None
    fault: str | None = None

    @property
    def intact(self) -> bool:
        """Whether nothing was found."""
        return self.fault is None


def verify(entries: Iterable[StoredEntry], noted: Head, anchor: Head | None = None) -> Report:
    """Walks the chain from the start. `entries` come in the order of `seq`.

    `noted` is the head that the records keep apart; `anchor` a head that somebody noted earlier in
    another place: the chain must pass through it.
    """
    head, checked, anchored = EMPTY_HEAD, 0, anchor is None
    for entry in entries:
        fault = _fault(entry, head)
        if fault is not None:
            seq = head.seq + 1 if entry.seq > head.seq + 1 else entry.seq
            return Report(checked, head, seq, fault)
        head, checked = Head(entry.seq, entry.digest), checked + 1
        if anchor is not None and head.seq == anchor.seq:
            if head != anchor:
                return Report(checked, head, head.seq, "differs from the entry that was noted as anchor")
            anchored = True
    if head != noted:
        seq = head.seq + 1 if noted.seq > head.seq else head.seq
        return Report(checked, head, seq, f"the chain ends at {head.seq}, but entry {noted.seq} was noted as its end")
    if not anchored and anchor is not None:
        return Report(checked, head, head.seq + 1, f"the chain ends before the anchor, entry {anchor.seq}")
    return Report(checked, head)


def _fault(entry: StoredEntry, head: Head) -> str | None:
    if entry.seq != head.seq + 1:
        return f"missing: entry {entry.seq} follows entry {head.seq}"
    if hashlib.sha256(entry.body).hexdigest() != entry.digest:
        return "its bytes do not match its digest"
    try:
        body = json.loads(entry.body)
    except (ValueError, RecursionError):
        return "its bytes are no entry"
    if not isinstance(body, dict) or not body.keys() >= _FIELDS or not isinstance(body["texts"], dict):
        return "its bytes are no entry"
    if body["seq"] != entry.seq:
        return f"stands in the place of entry {body['seq']}"
    if body["prev"] != head.digest:
        return "does not follow the entry before it"
    for name, value in entry.copies.items():
        if body[name] != value:
            return f"its column {name} says something else than its bytes"
    if set(body["texts"]) != set(entry.texts):
        return "texts were added or taken away"
    for name, stored in entry.texts.items():
        if stored.digest != body["texts"][name]:
            return f"the digest of its text {name} was changed"
        try:
            changed = stored.text is not None and text_digest(stored.salt, stored.text) != stored.digest
        except ValueError:
            return f"the salt of its text {name} was changed"
        if changed:
            return f"its text {name} was changed"
    return None
