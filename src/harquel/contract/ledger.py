"""The audit record on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Any

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


class Verification(Shape):
    """Whether the chain holds; otherwise the first entry at fault and what is wrong with it.

    `compared` counts what people see and was held against the chain, `differences` is what is not as the chain says.
    """

    intact: bool
    checked: int
    head: LedgerHead
    fault_seq: int | None = None
    fault: str | None = None
    compared: int = 0
    differences: list[Difference] = []
