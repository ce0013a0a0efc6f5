"""A new key for the seals of the ledger."""

from __future__ import annotations

from harquel.contract import LedgerKeys, events
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation
from harquel.service.runtime import runtime

from ..append import append
from ..keys import public_keys, required_sealer


@operation(
    "ledger.change-key", takes=Nothing, gives=LedgerKeys, scope="admin", about=NO_SUBJECT, repeat="anew",
    entries=("ledger-key-changed", "ledger-sealed"),
)  # fmt: skip
def change_key(call: Call[Nothing, None]) -> LedgerKeys:
    """A new key from now on; seals of the old ones go on holding."""
    sealing = required_sealer()

    def change() -> None:
        # The old key seals the entry that names the new one.
        append(who=call.caller.name, what=events.LedgerKeyChanged(old=next(iter(sealing.public()))))
        append(who=call.caller.name, what=events.LedgerSealed(new=sealing.rotate()))

    runtime().writer.do(change)
    return public_keys()
