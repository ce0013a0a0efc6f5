"""The audit record on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Any

from pydantic import Field, RootModel

from .base import Shape


class EntryShape(Shape):
    """One entry; `texts` maps a name to its text, or to null once it was blanked."""

    seq: int
    at: dt.datetime
    who: str
    kind: str
    inquiry: str | None
    facts: dict[str, Any]
    texts: dict[str, str | None]
    digest: str


class EntryPage(Shape):
    """A page of entries, newest first; `next` is the cursor of the one after it."""

    items: list[EntryShape]
    next: str | None = None


class LedgerHead(Shape):
    """The newest entry; note it elsewhere to prove later that nothing was cut off."""

    seq: int
    digest: str


class Difference(Shape):
    """A stored thing that is not what the ledger says of it: an inquiry, a token or a document."""

    what: str
    id: str
    said: str


class LedgerKey(Shape):
    """A public key of the ledger: Ed25519, 32 bytes in hex, and its name in seals."""

    name: str
    public: str


class LedgerKeys(RootModel[list[LedgerKey]]):
    """The public keys, the one in use first."""


class SealShape(Shape):
    """A signed checkpoint: keep it elsewhere to prove later what stood here."""

    seq: int
    digest: str
    at: str
    key: str
    signature: str


class Verification(Shape):
    """Whether the chain holds; otherwise the first entry at fault and what is wrong with it.

    `compared` counts what people see and was held against the chain, `differences` is what is not as the chain says.
    """

    intact: bool
    checked: int
    head: LedgerHead
    fault_seq: int | None = None
    fault: str | None = None
    sealed: int | None = Field(default=None, description="the last entry whose seal was found good")
    keys: list[str] = Field(default=[], description="names of the public keys, the one in use first")
    unseen: str = Field(default="", description="what only a head or a seal noted elsewhere could show")
    compared: int = 0
    differences: list[Difference] = []
