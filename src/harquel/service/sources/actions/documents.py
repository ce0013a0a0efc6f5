"""Notes and policy of a source: read, replaced, edited table by table; every version stays."""

from __future__ import annotations

from collections import Counter
from typing import Literal

from harquel.contract import (
    CoverageShape,
    DocumentRequest,
    DocumentShape,
    JoinProposal,
    TableEdit,
    Undescribed,
)
from harquel.core.curation import coverage, edited_notes, edited_policy, mismatches, read_document
from harquel.core.domain.joins import propose_joins
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.guard.explain import misfits
from harquel.core.sql.names import resolve
from harquel.core.sql.tree import ParseFault, parse
from harquel.service.access.models import Token
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime

from ..live import LiveSource, document_text, keep_document, newest_document
from .find import source_for

Kind = Literal["notes", "policy"]
_LOOKED_BACK = 300


def read(name: str, kind: Kind, token: Token) -> DocumentShape:
    """The version that counts. Raises ProblemError."""
    source = source_for(name, token, disabled_too=True)
    newest = newest_document(name, kind)
    current = source.core.notes if kind == "notes" else source.core.policy
    return DocumentShape(
        source=name, kind=kind, number=newest.number if newest else 0, text=document_text(name, kind, current),
        who=newest.who if newest else "", at=newest.at if newest else None, origin=newest.origin if newest else "",
    )  # fmt: skip


def replace(name: str, kind: Kind, request: DocumentRequest, token: Token, origin: str) -> DocumentShape:
    """A new version. Raises ProblemError or ConfigurationError; then nothing is changed."""
    source = source_for(name, token, disabled_too=True)
    newest = newest_document(name, kind)
    number = newest.number if newest else 0
    if request.number is not None and request.number != number:
        who = newest.who if newest else "somebody"
        raise ProblemError(
            409, "changed-meanwhile", f"{who} changed it meanwhile: the newest is version {number}.",
            "Read it again and repeat your change.",
        )  # fmt: skip
    if kind == "notes":
        notes, policy = read_document(request.text, Notes, "notes"), source.core.policy
        _must_fit(source, notes, request.force)
    else:
        notes, policy = source.core.notes, read_document(request.text, Policy, "policy")
        _policy_must_fit(source, policy, request.force)
        runtime().model_for(source.spec.section.draft, policy, name)
    runtime().writer.do(lambda: keep_document(name, kind, request.text, token.person.name, origin))
    source.describe(policy, notes)
    if kind == "policy":
        # What may be looked into may be otherwise now.
        source.keeper.policy_changed()
    return read(name, kind, token)


def _must_fit(source: LiveSource, notes: Notes, force: bool) -> None:
    catalog = source.keeper.known()
    if catalog is None or force:
        return
    found = mismatches(notes, catalog)
    if found:
        listed = " ".join(f"{m}." if not str(m).endswith("?") else str(m) for m in found[:8])
        more = f" And {len(found) - 8} more." if len(found) > 8 else ""
        raise ProblemError(
            422, "notes-do-not-fit", f"The notes speak of what is not there: {listed}{more}",
            "Correct them, or force the import: the rest then counts, and these wait until they are there.",
        )  # fmt: skip


def _policy_must_fit(source: LiveSource, policy: Policy, force: bool) -> None:
    """A name that is misspelt protects nothing, and nobody would notice."""
    catalog = source.keeper.known()
    found = misfits(policy, catalog) if catalog is not None and not force else []
    if found:
        listed = " ".join(f"{s.line}: {s.text}" for s in found[:8])
        raise ProblemError(
            422, "policy-does-not-fit", f"The policy speaks of what is not there. {listed}",
            "Correct the names, or force the import: lines that match nothing protect nothing until they do.",
        )  # fmt: skip


def edit_table(name: str, table: str, edit: TableEdit, token: Token) -> None:
    """Notes, exposure and personal marks of one table at once. Raises ProblemError or ConfigurationError."""
    source = source_for(name, token, disabled_too=True)
    catalog = source.keeper.known()
    found = catalog.table(table) if catalog is not None else None
    unknown = [c for c in edit.columns if found is not None and found.column(c) is None]
    if found is None or unknown:
        what = f"{table}.{unknown[0]}" if unknown else table
        raise ProblemError(404, "unknown-table", f"There is no {what} in {name}.", "Scan again if it is new.")
    said = edit.model_dump(exclude_unset=True, exclude={"exposed", "columns"})
    columns = {
        c: v
        for c, e in edit.columns.items()
        if (v := e.model_dump(exclude_unset=True, exclude={"exposed", "personal"}))
    }
    exposed = {c: e.exposed for c, e in edit.columns.items() if e.exposed is not None}
    if edit.exposed is not None:
        exposed[""] = edit.exposed
    personal = {c: e.personal for c, e in edit.columns.items() if e.personal is not None}
    if said or columns:
        text = document_text(name, "notes", source.core.notes)
        changed = edited_notes(text, found.name, {**said, "columns": columns})
        replace(name, "notes", DocumentRequest(text=changed, force=True), token, "console")
    if exposed or personal:
        text = document_text(name, "policy", source.core.policy)
        changed = edited_policy(text, source.core.policy, found.name, exposed, personal)
        replace(name, "policy", DocumentRequest(text=changed, force=True), token, "console")


def covered(name: str, token: Token) -> CoverageShape:
    """How much is described, which columns questions touch without a word on them, and joins to propose."""
    source = source_for(name, token, disabled_too=True)
    catalog = source.keeper.known()
    if catalog is None:
        return CoverageShape(columns=0, described=0, share=0.0)
    visible = source.core.describer.of(catalog).catalog
    total, described = coverage(source.core.notes, visible)
    touched: Counter[tuple[str, str]] = Counter()
    latest = StoredInquiry.objects.filter(source=name, outcome="answered").order_by("-pk")[:_LOOKED_BACK]
    for record in latest.values_list("record", flat=True):
        try:
            tree = parse(record["answer"]["sql"], source.engine.name)[0]
        except (ParseFault, IndexError, KeyError, TypeError):
            continue
        for name_read, columns in resolve(tree, visible).reads.items():
            touched.update((name_read, c) for c in columns)
    notes = source.core.notes
    bare = []
    for (table_name, column_name), count in touched.most_common():
        table = visible.table(table_name)
        column = table.column(column_name) if table is not None else None
        if table is None or column is None or column.primary_key or column.comment:
            continue
        if any(column.name in k.columns for k in table.foreign_keys):
            continue
        if column.name not in notes.of(table.name).columns:
            bare.append(Undescribed(table=table.name, column=column.name, touched=count))
    proposals = [JoinProposal(**vars(p)) for p in propose_joins(visible)[:50]]
    return CoverageShape(
        columns=total, described=described, share=round(described / total, 3) if total else 1.0,
        most_touched=bare[:10], proposed_joins=proposals,
    )  # fmt: skip
