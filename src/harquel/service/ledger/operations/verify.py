"""Whether the ledger holds."""

from __future__ import annotations

import re

from harquel.contract import Verification
from harquel.contract.queries import VerificationQuery
from harquel.core.ledger import Head as ChainHead
from harquel.service.errors import ProblemError
from harquel.service.operations import NO_SUBJECT, Call, operation

from ..verify_ledger import verify_ledger


@operation("ledger.verify", takes=VerificationQuery, gives=Verification, scope="audit", about=NO_SUBJECT)
def verify(call: Call[VerificationQuery, None]) -> Verification:
    """Checks every entry; `anchor` is SEQ:DIGEST of an entry noted earlier."""
    return verify_ledger(anchor_of(call.asked.anchor))


def anchor_of(text: str | None) -> ChainHead | None:
    """Reads SEQ:DIGEST. Raises ProblemError."""
    if not text:
        return None
    found = re.fullmatch(r"([0-9]{1,15}):([0-9a-f]{64})", text)
    if found is None:
        raise ProblemError(422, "invalid-anchor", "problem-invalid-anchor")
    return ChainHead(int(found.group(1)), found.group(2))
