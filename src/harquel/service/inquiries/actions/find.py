"""Finds an inquiry that the caller may see."""

from __future__ import annotations

from django.db.models import Q, QuerySet

from harquel.service.access.models import Token
from harquel.service.problems import not_found

from ..models import StoredInquiry


def visible_inquiries(token: Token) -> QuerySet[StoredInquiry]:
    """Of the sources of this token, whatever its scopes: one's own; all of them with the scope audit; with the scope
    release those that wait for somebody, and those on which one has decided oneself.
    """
    found = StoredInquiry.objects.select_related("person")
    if "*" not in token.sources:
        found = found.filter(source__in=token.sources)
    if "audit" in token.scopes:
        return found
    mine = Q(person_id=token.person_id)
    if "release" in token.scopes:
        mine |= Q(state="held") | Q(decided_by_id=token.person_id)
    return found.filter(mine)


def find_inquiry(key: str, token: Token) -> StoredInquiry:
    """Raises ProblemError when there is none, or none for this token."""
    stored = visible_inquiries(token).select_related("result").filter(key=key).first()
    if stored is None:
        raise not_found("inquiry", key, "The list of inquiries shows which there are.")
    return stored
