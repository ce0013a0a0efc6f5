"""The notes and the policy of a source: read, replaced, looked back on."""

from __future__ import annotations

from harquel.contract import DocumentLine, DocumentRequest, Documents, DocumentShape
from harquel.service.operations import Call, Nothing, Operation, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..models import SourceDocument
from ..shapes import SHOWN
from .keeping import Kind, document_of, replace_document


def _read(kind: Kind) -> Operation[Nothing, LiveSource, DocumentShape]:
    @operation(f"{kind}.read", takes=Nothing, gives=DocumentShape, scope="steward", about=SOURCE_EVEN_OFF)
    def read(call: Call[Nothing, LiveSource]) -> DocumentShape:
        """The version that counts."""
        return document_of(call.about, kind)

    return read


def _replace(kind: Kind) -> Operation[DocumentRequest, LiveSource, DocumentShape]:
    @operation(
        f"{kind}.replace", takes=DocumentRequest, gives=DocumentShape, scope="steward", about=SOURCE_EVEN_OFF,
        repeat="anew", entries=("document-changed",),
    )  # fmt: skip
    def replace(call: Call[DocumentRequest, LiveSource]) -> DocumentShape:
        """A new version; when it does not fit, nothing is changed."""
        return replace_document(call.about, kind, call.asked, call.caller, "import")

    return replace


def _history(kind: Kind) -> Operation[Nothing, LiveSource, Documents]:
    @operation(f"{kind}.history", takes=Nothing, gives=Documents, scope="steward", about=SOURCE_EVEN_OFF)
    def history(call: Call[Nothing, LiveSource]) -> Documents:
        """Who changed it and when, newest first."""
        found = SourceDocument.objects.filter(source=call.about.name, kind=kind).order_by("-number")[:SHOWN]
        return Documents(
            [DocumentLine(number=d.number, who=d.who, at=d.at, origin=d.origin, said=d.said) for d in found]
        )

    return history


read_notes, read_policy = _read("notes"), _read("policy")
replace_notes, replace_policy = _replace("notes"), _replace("policy")
notes_history, policy_history = _history("notes"), _history("policy")
