"""Notes and policy of a source: the version that counts, and a new one; every version stays."""

from __future__ import annotations

from typing import Literal

from harquel.contract import DocumentRequest, DocumentShape
from harquel.core.curation import mismatches, read_document
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.guard.explain import misfits
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.runtime import runtime

from ..live import LiveSource, document_text, keep_document, newest_document

Kind = Literal["notes", "policy"]


def document_of(source: LiveSource, kind: Kind) -> DocumentShape:
    """The version that counts."""
    name = source.name
    newest = newest_document(name, kind)
    current = source.core.notes if kind == "notes" else source.core.policy
    return DocumentShape(
        source=name, kind=kind, number=newest.number if newest else 0, text=document_text(name, kind, current),
        who=newest.who if newest else "", at=newest.at if newest else None, origin=newest.origin if newest else "",
    )  # fmt: skip


def replace_document(
    source: LiveSource, kind: Kind, request: DocumentRequest, caller: Caller, origin: str
) -> DocumentShape:  # fmt: skip
    """A new version. Raises ProblemError or ConfigurationError; then nothing is changed."""
    name = source.name
    newest = newest_document(name, kind)
    number = newest.number if newest else 0
    if request.number is not None and request.number != number:
        who = newest.who if newest else "somebody"
        raise ProblemError(409, "changed-meanwhile", "problem-changed-meanwhile", who=who, number=number)
    if kind == "notes":
        notes, policy = read_document(request.text, Notes, "notes"), source.core.policy
        _must_fit(source, notes, request.force)
    else:
        notes, policy = source.core.notes, read_document(request.text, Policy, "policy")
        _policy_must_fit(source, policy, request.force)
        runtime().duties.drafting(source.spec.section.draft, policy, name)
    runtime().writer.do(lambda: keep_document(name, kind, request.text, caller.name, origin))
    source.describe(policy, notes)
    if kind == "policy":
        # What may be looked into may be otherwise now.
        source.keeper.policy_changed()
    return document_of(source, kind)


def _must_fit(source: LiveSource, notes: Notes, force: bool) -> None:
    catalog = source.keeper.known()
    if catalog is None or force:
        return
    found = mismatches(notes, catalog)
    if found:
        listed = " ".join(f"{m}." if not str(m).endswith("?") else str(m) for m in found[:8])
        more = f" (+ {len(found) - 8})" if len(found) > 8 else ""
        raise ProblemError(422, "notes-do-not-fit", "problem-notes-do-not-fit", listed=f"{listed}{more}")


def _policy_must_fit(source: LiveSource, policy: Policy, force: bool) -> None:
    """A name that is misspelt protects nothing, and nobody would notice."""
    catalog = source.keeper.known()
    found = misfits(policy, catalog) if catalog is not None and not force else []
    if found:
        listed = " ".join(f"{s.line}: {s.text}" for s in found[:8])
        raise ProblemError(422, "policy-does-not-fit", "problem-policy-does-not-fit", listed=listed)
