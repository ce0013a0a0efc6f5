"""The audit record on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Any

from pydantic import RootModel

from .base import Shape


class EntryShape(Shape):
    """One entry; `texts` maps a name to its text, or to null once it was blanked."""

    seq: int
    """Its number, counted from one."""
    at: dt.datetime
    """When it was written."""
    who: str
    """Who did it; “service” for the service itself."""
    kind: str
    """What happened, by a stable word."""
    inquiry: str | None
    """The inquiry that it belongs to; null: none."""
    facts: dict[str, Any]
    """What happened, in figures and stable words."""
    texts: dict[str, str | None]
    """Texts that belong to it, by name; null once blanked."""
    digest: str
    """The digest over it and the one before it, in hex."""


class EntryPage(Shape):
    """A page of entries, newest first; `next` is the cursor of the one after it."""

    items: list[EntryShape]
    """The entries, newest first."""
    next: str | None = None
    """The cursor of the page after it; null on the last one."""


class LedgerHead(Shape):
    """The newest entry; note it elsewhere to prove later that nothing was cut off."""

    seq: int
    """The number of the newest entry; 0 while there is none."""
    digest: str
    """Its digest."""


class Difference(Shape):
    """A stored thing that is not what the ledger says of it: an inquiry, a token or a document."""

    what: str
    """What kind of thing it is."""
    id: str
    """Which one."""
    said: str
    """What is different, in a sentence."""


class LedgerKey(Shape):
    """A public key of the ledger: Ed25519, 32 bytes in hex, and its name in seals."""

    name: str
    """Its name, as it stands in seals."""
    public: str
    """The public key, Ed25519, 32 bytes in hex."""


class LedgerKeys(RootModel[list[LedgerKey]]):
    """The public keys, the one in use first."""


class SealShape(Shape):
    """A signed checkpoint: keep it elsewhere to prove later what stood here."""

    seq: int
    """The entry that is sealed."""
    digest: str
    """The digest of that entry."""
    at: str
    """When it was sealed."""
    key: str
    """The name of the key."""
    signature: str
    """The signature over number, digest and time, in hex."""


class Verification(Shape):
    """Whether the chain holds; otherwise the first entry at fault and what is wrong with it.

    `compared` counts what people see and was held against the chain, `differences` is what is not as the chain says.
    """

    intact: bool
    """Whether all that was looked at is as it should be."""
    checked: int
    """How many entries were found good."""
    head: LedgerHead
    """The newest entry."""
    fault_seq: int | None = None
    """The first entry at fault; null when there is none."""
    fault: str | None = None
    """What is wrong with it."""
    sealed: int | None = None
    """The last entry whose seal was found good."""
    keys: list[str] = []
    """The names of the public keys, the one in use first."""
    unseen: str = ""
    """What only a head or a seal noted elsewhere could show."""
    compared: int = 0
    """How many stored things were held against the entries."""
    differences: list[Difference] = []
    """Stored things that are not as the entries say."""
