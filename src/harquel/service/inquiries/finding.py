"""Finds an inquiry that the caller may see."""

from __future__ import annotations

from typing import Final

from django.db.models import Q, QuerySet

from harquel.service.access.caller import Caller
from harquel.service.errors import not_found
from harquel.service.operations import Subject

from .models import StoredInquiry


def visible_inquiries(caller: Caller) -> QuerySet[StoredInquiry]:
    """Of the sources of this caller, whatever the scopes: one's own; all of them with the scope audit; with the scope
    release those that wait for somebody, and those on which one has decided oneself.
    """
    found = StoredInquiry.objects.select_related("person")
    if not caller.everywhere:
        found = found.filter(source__in=caller.sources)
    if caller.may("audit"):
        return found
    mine = Q(person_id=caller.person)
    if caller.may("release"):
        mine |= Q(state="held") | Q(decided_by_id=caller.person)
    return found.filter(mine)


def find_inquiry(key: str, caller: Caller) -> StoredInquiry:
    """Raises ProblemError when there is none, or none for this caller."""
    stored = visible_inquiries(caller).select_related("result").filter(key=key).first()
    if stored is None:
        raise not_found("problem-unknown-inquiry", key)
    return stored


def thread_of(earlier: StoredInquiry | None) -> str | None:
    """The id of the first of those that follow one another; None where an inquiry begins anew."""
    return None if earlier is None else earlier.thread or earlier.key


INQUIRY: Final = Subject(
    "inquiry", "key", find_inquiry, "one's own; with audit anybody's; with release what is held or was decided by one"
)
