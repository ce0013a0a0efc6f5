"""What a casebook was before."""

from __future__ import annotations

from harquel.contract import Casebook, CasebookVersion, CasebookVersions
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..contents import Contents
from ..finding import OWN, version_of
from ..models import StoredCasebook
from ..writing import Draft, write
from .making import shape_of_casebook

_SHOWN = 200


@operation("casebook.history", takes=Nothing, about=OWN, gives=CasebookVersions)
def casebook_history(call: Call[Nothing, StoredCasebook]) -> CasebookVersions:
    """Every time that it was written, the newest first: for its owner, since what was taken out of it stands there."""
    return CasebookVersions([
        CasebookVersion(version=one.number, at=one.at, by=one.by, what=one.what, names=list(one.names))
        for one in call.about.versions.order_by("-number")[:_SHOWN]
    ])  # fmt: skip


@operation("casebook.version", takes=Nothing, about=OWN, gives=Casebook)
def casebook_version(call: Call[Nothing, StoredCasebook]) -> Casebook:
    """As it was then, with the answers of then."""
    return Contents(call.about, version_of(call.about, call.at["version"]), call.caller).shape()


@operation(
    "casebook.restore", takes=Nothing, about=OWN, scope="ask", gives=Casebook, repeat="anew",
    entries=("casebook-written",),
)  # fmt: skip
def restore_casebook(call: Call[Nothing, StoredCasebook]) -> Casebook:
    """Makes what it was then its newest version."""
    casebook, old = call.about, version_of(call.about, call.at["version"])

    def edit(draft: Draft) -> None:
        draft.title, draft.text, draft.kept = old.title, old.text, [dict(one) for one in old.kept]

    runtime().writer.do(lambda: write(casebook, call.caller.name, "restored", [], edit))
    casebook.refresh_from_db()
    return shape_of_casebook(casebook, call.caller)
