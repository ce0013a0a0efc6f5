"""Casebooks, for whom they are."""

from __future__ import annotations

from typing import Final

from django.db.models import QuerySet

from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError, not_found
from harquel.service.operations import Subject

from .models import StoredCasebook, StoredVersion


def visible(caller: Caller) -> list[StoredCasebook]:
    """One's own and those that one may read, the last changed first."""
    found = _there().order_by("-changed_at", "-pk")
    return [one for one in found if _reads(one, caller)]


def newest(casebook: StoredCasebook) -> StoredVersion:
    """As it is now."""
    return casebook.versions.get(number=casebook.version)


def version_of(casebook: StoredCasebook, number: int) -> StoredVersion:
    """As it was then. Raises ProblemError."""
    found = casebook.versions.filter(number=number).first()
    if found is None:
        raise ProblemError(404, "no-such-version", "problem-casebook-no-version", version=number)
    return found


def _there() -> QuerySet[StoredCasebook]:
    return StoredCasebook.objects.select_related("person").filter(removed_at=None)


def _reads(casebook: StoredCasebook, caller: Caller) -> bool:
    return casebook.person_id == caller.person or casebook.open or caller.person in casebook.readers


def _find(key: str, caller: Caller) -> StoredCasebook:
    found = _there().filter(key=key).first()
    if found is None or not _reads(found, caller):
        raise not_found("problem-unknown-casebook", key)
    return found


def find_own(key: str, caller: Caller) -> StoredCasebook:
    """Raises ProblemError where there is none, or it is somebody else's."""
    found = _there().filter(key=key, person_id=caller.person).first()
    if found is None:
        raise not_found("problem-unknown-casebook", key)
    return found


RULE: Final = "one's own, and those of which one is a reader; answers in it: one's own, or seen by oneself as well"
CASEBOOK: Final = Subject("casebook", "casebook", _find, RULE)
OWN: Final = Subject("casebook of one's own", "casebook", find_own, "one's own")
