"""The key of stored passwords."""

from __future__ import annotations

from harquel.contract import Rotation, events
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation
from harquel.service.runtime import runtime

from ..models import StoredSource


@operation(
    "source.rotate-passwords", takes=Nothing, gives=Rotation, scope="admin", about=NO_SUBJECT, repeat="anew",
    entries=("keys-rotated",),
)  # fmt: skip
def rotate(call: Call[Nothing, None]) -> Rotation:
    """Encrypts every stored password with the newest key; makes one where keys lie in a file."""
    live = runtime()
    live.vault.add_key()

    def renew() -> int:
        count = 0
        for stored in StoredSource.objects.exclude(secret=None):
            stored.secret = live.vault.rotate(bytes(stored.secret))
            stored.save(update_fields=["secret"])
            count += 1
        append(who=call.caller.name, what=events.KeysRotated(passwords=count))
        return count

    return Rotation(passwords=live.writer.do(renew))
