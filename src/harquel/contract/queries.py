"""What is asked of lists and texts in the query of an address."""

from __future__ import annotations

from typing import Literal

from .base import Input
from .charts import DrawWish


class PageQuery(Input):
    """Which page of a list, newest first."""

    cursor: str | None = None
    """Where the page before ended: its `next`."""
    limit: str | None = None
    """How many at most, 1 to 200; 50 where nothing is said."""


class InquiryQuery(PageQuery):
    """Which inquiries."""

    source: str | None = None
    """Those of one source."""
    outcome: str | None = None
    """Those that ended so."""
    state: str | None = None
    """Those that are in this state."""
    thread: str | None = None
    """The one with this id, and those that follow it, one after another."""


class EntryQuery(PageQuery):
    """Which entries of the ledger."""

    inquiry: str | None = None
    """Those of one inquiry."""
    kind: str | None = None
    """Those of one kind."""


class VerificationQuery(Input):
    """What to hold the ledger against."""

    anchor: str | None = None
    """SEQ:DIGEST of an entry that was noted earlier."""


class CatalogQuery(Input):
    """How much of a catalog."""

    whole: str | None = None
    """1: what is not exposed, too; for stewards."""


class DiffQuery(Input):
    """Which versions of a catalog to compare."""

    old: str | None = None
    """The earlier version; the one before `new` where nothing is said."""
    new: str | None = None
    """The later version; the newest where nothing is said."""


class TextQuery(Input):
    """In which form examples are written out."""

    form: str | None = None
    """jsonl for JSON Lines; YAML otherwise."""


Form = Literal["csv", "json", "jsonl", "xlsx", "md", "html", "svg", "png"]
"""The forms in which an answer is taken away; the last two are its chart. A whole result: csv or jsonl."""


class ExportWish(DrawWish):
    """In which form an answer is to be taken away, and how its chart is drawn, where it is that."""

    form: Form = "csv"
    """csv, json, jsonl, xlsx, md or html; its chart: svg or png; a whole result: csv or jsonl."""
