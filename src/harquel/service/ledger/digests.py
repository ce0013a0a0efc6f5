"""Digests of what people see, as the ledger's entries hold them: of a record, of rows, of what a token may do."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from typing import Any


def digest_of(value: Any) -> str:
    """SHA-256, in hex, over the value as JSON with sorted keys: the same for what a record gives back."""
    text = json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


def rights(
    scopes: Sequence[str], sources: Sequence[str], roles: Sequence[str], values: dict[str, Any], secret: str
) -> str:
    """Of all that a token may do; `secret` is the digest of its secret."""
    return digest_of([scopes, sources, roles, values, secret])
