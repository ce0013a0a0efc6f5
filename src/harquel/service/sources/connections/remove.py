"""A source of the records let go; what was asked of it stays in the ledger."""

from __future__ import annotations

from harquel.contract import Removal, events
from harquel.service.errors import ProblemError
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.ledger.append import append
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..models import OWNED, StoredSource


@operation(
    "source.remove", takes=Nothing, gives=Removal, scope="steward", about=SOURCE_EVEN_OFF, repeat="same",
    entries=("source-removed",),
)  # fmt: skip
def remove(call: Call[Nothing, LiveSource]) -> Removal:
    """Lets it go, and says what stays."""
    live, source = runtime(), call.about
    name = source.name
    if source.spec.origin == "file":
        raise ProblemError(409, "source-of-the-file", "problem-removed-in-the-file", name=name)
    live.sources.drop(name)
    asked = StoredInquiry.objects.filter(source=name).count()

    def forget() -> None:
        StoredSource.objects.filter(name=name).delete()
        for model in OWNED:
            model.objects.filter(source=name).delete()
        append(who=call.caller.name, what=events.SourceRemoved(source=name, inquiries_kept=asked))

    live.writer.do(forget)
    stays = (
        f"Its catalog, notes, policy, examples and password are gone. {asked} inquiries about it stay, with their "
        "entries in the ledger: what was asked, what ran and what came back can still be checked."
    )
    return Removal(name=name, stays=stays, kept={"inquiries": asked})
