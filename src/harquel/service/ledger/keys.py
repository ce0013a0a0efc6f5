"""The keys of the ledger, for operations."""

from __future__ import annotations

from harquel.contract import LedgerKey, LedgerKeys
from harquel.service.errors import ProblemError

from .sealing import Sealer, sealer


def required_sealer() -> Sealer:
    """Raises ProblemError where nothing is sealed."""
    found = sealer()
    if found is None:
        raise ProblemError(503, "not-sealed", "problem-not-sealed")
    return found


def public_keys() -> LedgerKeys:
    """Raises ProblemError where nothing is sealed."""
    found = required_sealer().public()
    return LedgerKeys([LedgerKey(name=n, public=k.public_bytes_raw().hex()) for n, k in found.items()])
