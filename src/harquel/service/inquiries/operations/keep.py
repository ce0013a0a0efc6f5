"""Writes into the notes of the source what a correction meant, so that it holds for everybody."""

from __future__ import annotations

from harquel.contract import DocumentRequest, DocumentShape
from harquel.core.curation import corrected_notes
from harquel.core.domain.understood import Lasting
from harquel.service.errors import ProblemError
from harquel.service.operations import Call, Nothing, operation
from harquel.service.sources.documents.keeping import document_of, replace_document
from harquel.service.sources.finding import source_for
from harquel.service.sources.live import document_text

from ..finding import INQUIRY, find_inquiry
from ..models import StoredInquiry
from ..shapes import inquiry_of


@operation(
    "inquiry.keep", takes=Nothing, gives=DocumentShape, scope="steward", about=INQUIRY, repeat="same",
    entries=("document-changed",), rule="an inquiry that corrects how one before it was understood",
)  # fmt: skip
def keep(call: Call[Nothing, StoredInquiry]) -> DocumentShape:
    """The notes with it. Raises ProblemError where nothing of the correction can be written down."""
    stored, caller = call.about, call.caller
    source = source_for(stored.source, caller, disabled_too=True)
    lasting = _lasting(find_inquiry(stored.follows, caller) if stored.follows else None, stored.choice)
    text = document_text(source.name, "notes", source.core.notes)
    try:
        changed = corrected_notes(text, source.core.notes, lasting)
    except ValueError as fault:
        raise ProblemError(409, "means-otherwise", "problem-means-otherwise", why=str(fault)) from fault
    if changed == text:
        return document_of(source, "notes")
    return replace_document(source, "notes", DocumentRequest(text=changed, force=True), caller, "correction")


def _lasting(earlier: StoredInquiry | None, choice: str | None) -> Lasting:
    opinion = inquiry_of(earlier).second_opinion if earlier is not None else None
    offered = {offer.id: offer.lasting for offer in opinion.instead} if opinion is not None else {}
    found = offered.get(choice or "")
    if found is None:
        raise ProblemError(409, "nothing-to-keep", "problem-nothing-to-keep")
    return found
