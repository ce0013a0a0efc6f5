"""Writes a casebook: each time a version of its own, with an entry in the ledger, in one transaction."""

from __future__ import annotations

import hashlib
import json
import secrets
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Final

from harquel.contract import events
from harquel.contract.casebooks import TEXT_LIMIT
from harquel.core.casebooks import CITED, MOST_CITED
from harquel.core.clock import utc_now
from harquel.service.access.models import Person
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append

from .contents import EVERYBODY
from .finding import newest
from .models import StoredCasebook, StoredVersion

MOST: Final = 200
"""Casebooks of one person."""
MOST_KEPT: Final = 60
"""Answers of one casebook."""
MOST_VERSIONS: Final = 2_000


@dataclass
class Draft:
    """What it is to be."""

    title: str
    text: str
    kept: list[dict[str, Any]] = field(default_factory=list)


def new_key() -> str:
    """Of a casebook."""
    return f"cb_{secrets.token_hex(8)}"


def write(
    casebook: StoredCasebook, by: str, what: str, names: list[str], edit: Callable[[Draft], None],
    expects: int | None = None,
) -> StoredVersion:  # fmt: skip
    """Writes the next version; `edit` changes the draft of it. Runs inside the writer. Raises ProblemError."""
    now = StoredCasebook.objects.select_related("person").get(pk=casebook.pk)
    if now.removed_at is not None:
        raise ProblemError(404, "unknown-casebook", "problem-unknown-casebook", name=now.key, known="")
    if expects is not None and expects != now.version:
        raise ProblemError(409, "casebook-moved", "problem-casebook-moved", version=now.version)
    if now.version >= MOST_VERSIONS:
        raise ProblemError(409, "casebook-full", "problem-casebook-versions", n=MOST_VERSIONS)
    last = newest(now)
    draft = Draft(last.title, last.text, [dict(one) for one in last.kept])
    edit(draft)
    _must_fit(draft)
    made = _store(now, now.version + 1, by, what, names, draft)
    StoredCasebook.objects.filter(pk=now.pk).update(version=made.number, changed_at=made.at)
    casebook.version, casebook.changed_at = made.number, made.at
    return made


def begin(casebook: StoredCasebook, by: str, draft: Draft) -> StoredVersion:
    """Stores a new one with its first version. Runs inside the writer. Raises ProblemError."""
    _must_fit(draft)
    if StoredCasebook.objects.filter(person_id=casebook.person_id, removed_at=None).count() >= MOST:
        raise ProblemError(429, "too-many-casebooks", "problem-too-many-casebooks", n=MOST)
    casebook.save()
    return _store(casebook, 1, by, "made", [], draft)


def _store(casebook: StoredCasebook, number: int, by: str, what: str, names: list[str], draft: Draft) -> StoredVersion:
    made = StoredVersion.objects.create(
        casebook=casebook, number=number, at=utc_now(), by=by, what=what, names=names, title=draft.title,
        text=draft.text, kept=draft.kept,
    )  # fmt: skip
    digest = hashlib.sha256(json.dumps([draft.title, draft.text, draft.kept]).encode()).hexdigest()
    append(who=by, what=events.CasebookWritten(
        casebook=casebook.key, version=number, what=what, names=names, digest=digest
    ))  # fmt: skip
    return made


def _must_fit(draft: Draft) -> None:
    if len(draft.text) > TEXT_LIMIT:
        raise ProblemError(422, "casebook-too-long", "problem-casebook-too-long", n=f"{TEXT_LIMIT:,}")
    if len(draft.kept) > MOST_KEPT:
        raise ProblemError(409, "casebook-full", "problem-casebook-full", n=MOST_KEPT)
    if sum(1 for _ in CITED.finditer(draft.text)) > MOST_CITED:
        raise ProblemError(422, "too-many-references", "problem-casebook-references", n=MOST_CITED)


def readers_of(names: list[str]) -> tuple[list[int], bool]:
    """Who they are, and whether it is everybody. Raises ProblemError for a name that nobody has."""
    found: list[int] = []
    for name in dict.fromkeys(" ".join(n.split()) for n in names):
        if name == EVERYBODY:
            continue
        person = Person.objects.filter(name__iexact=name).first()
        if person is None:
            raise ProblemError(422, "nobody-of-that-name", "problem-nobody-of-that-name", name=name)
        found.append(person.pk)
    return found, EVERYBODY in names
