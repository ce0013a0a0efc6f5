"""The public keys of the ledger."""

from __future__ import annotations

from harquel.contract import LedgerKeys
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation

from ..keys import public_keys


@operation("ledger.keys", takes=Nothing, gives=LedgerKeys, scope="audit", about=NO_SUBJECT)
def list_keys(_: Call[Nothing, None]) -> LedgerKeys:
    """Those that seals may have been made with, the one in use first."""
    return public_keys()
