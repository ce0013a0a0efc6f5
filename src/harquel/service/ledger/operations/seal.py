"""A signed checkpoint of the ledger."""

from __future__ import annotations

from harquel.contract import SealShape, events
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation
from harquel.service.runtime import runtime

from ..append import append
from ..keys import required_sealer
from ..models import StoredSeal


@operation(
    "ledger.seal", takes=Nothing, gives=SealShape, scope="audit", about=NO_SUBJECT, repeat="anew",
    entries=("ledger-sealed",),
)  # fmt: skip
def seal(call: Call[Nothing, None]) -> SealShape:
    """Seals the chain now; keep what comes back elsewhere."""
    required_sealer()
    seq = runtime().writer.do(lambda: append(who=call.caller.name, what=events.LedgerSealed()))
    found = StoredSeal.objects.get(seq=seq)
    return SealShape(seq=found.seq, digest=found.digest, at=found.at, key=found.key, signature=found.signature)
