"""How a message is signed: as Standard Webhooks describes it, with a secret that both sides have."""

from __future__ import annotations

import base64
import binascii
import hashlib
import hmac
from typing import Final

from harquel.core.errors import ConfigurationError

_PREFIX: Final = "whsec_"
_SHORTEST: Final = 24
"""Bytes of a secret, by the standard."""


def secret_of(text: str, what: str) -> bytes:
    """The bytes of a secret as it is written down. Raises ConfigurationError for one that is none, or too short."""
    hint = f"Write {_PREFIX} and base64 of at least {_SHORTEST} random bytes: openssl rand -base64 32."
    try:
        found = base64.b64decode(text.strip().removeprefix(_PREFIX), validate=True)
    except (binascii.Error, ValueError) as error:
        raise ConfigurationError(f"{what} is no secret of Standard Webhooks.", hint) from error
    if len(found) < _SHORTEST:
        raise ConfigurationError(f"{what} is too short: {len(found)} bytes.", hint)
    return found


def signed(secret: bytes, key: str, at: int, body: bytes) -> dict[str, str]:
    """The headers of a message; `at` are seconds since 1970."""
    digest = hmac.new(secret, f"{key}.{at}.".encode() + body, hashlib.sha256).digest()
    said = base64.b64encode(digest).decode()
    return {"webhook-id": key, "webhook-timestamp": str(at), "webhook-signature": f"v1,{said}"}
