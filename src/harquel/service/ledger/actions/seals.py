"""Seals the chain at a wish, tells the public keys, takes a new one into use."""

from __future__ import annotations

from harquel.contract import LedgerKey, SealShape
from harquel.service.access.models import Token
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime

from ..append import append
from ..models import StoredSeal
from ..sealing import Sealer, sealer


def _in_use() -> Sealer:
    found = sealer()
    if found is None:
        raise ProblemError(503, "not-sealed", "This ledger is not sealed.", "The service makes a key when it starts.")
    return found


def keys() -> list[LedgerKey]:
    """Raises ProblemError where nothing is sealed."""
    return [LedgerKey(name=n, public=k.public_bytes_raw().hex()) for n, k in _in_use().public().items()]


def change_key(token: Token) -> list[LedgerKey]:
    """The old key seals the entry that names the new one. Raises ProblemError."""
    sealing = _in_use()

    def change() -> None:
        append(who=token.person.name, kind="ledger-key-changed", facts={"old": next(iter(sealing.public()))})
        append(who=token.person.name, kind="ledger-sealed", facts={"new": sealing.rotate()})

    runtime().writer.do(change)
    return keys()


def seal_now(token: Token) -> SealShape:
    """The seal on an entry that says who asked for it. Raises ProblemError."""
    _in_use()
    seq = runtime().writer.do(lambda: append(who=token.person.name, kind="ledger-sealed", facts={}))
    found = StoredSeal.objects.get(seq=seq)
    return SealShape(seq=found.seq, digest=found.digest, at=found.at, key=found.key, signature=found.signature)
