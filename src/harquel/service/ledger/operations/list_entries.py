"""The entries of the ledger."""

from __future__ import annotations

from harquel.contract import EntryPage
from harquel.contract.queries import EntryQuery
from harquel.service.operations import NO_SUBJECT, Call, operation
from harquel.service.pages import page

from ..models import Entry
from ..shapes import entry_shape


@operation("ledger.list", takes=EntryQuery, gives=EntryPage, scope="audit", about=NO_SUBJECT)
def list_entries(call: Call[EntryQuery, None]) -> EntryPage:
    """A page of entries, newest first, of one inquiry or kind if asked."""
    found = Entry.objects.prefetch_related("texts")
    for name in ("inquiry", "kind"):
        wanted = getattr(call.asked, name)
        if wanted:
            found = found.filter(**{name: wanted})
    items, following = page(call.asked, found, entry_shape)
    return EntryPage(items=items, next=following)
