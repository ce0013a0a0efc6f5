"""How a message is signed: as Standard Webhooks describes it, with a secret that both sides have."""

from __future__ import annotations

import base64
import binascii
import hashlib
import hmac
from collections.abc import Mapping
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


LATE_S: Final = 300
"""Seconds by which the time of a message may differ from ours."""


def genuine(secret: bytes, headers: Mapping[str, str], body: bytes, now: float) -> str | None:
    """The id of a message that was signed with this secret a moment ago; None for any other."""
    key, at, said = (headers.get(f"webhook-{part}", "") for part in ("id", "timestamp", "signature"))
    if not 0 < len(key) <= 200 or not at.isascii() or not at.isdigit() or len(at) > 12 or len(said) > 2000:
        return None
    wanted = signed(secret, key, int(at), body)["webhook-signature"].encode()
    # While a secret is changed, several stand side by side.
    same = [hmac.compare_digest(wanted, one) for one in said.encode("utf-8", "replace").split(b" ")]
    return key if any(same) and abs(now - int(at)) <= LATE_S else None


def signed(secret: bytes, key: str, at: int, body: bytes) -> dict[str, str]:
    """The headers of a message; `at` are seconds since 1970."""
    digest = hmac.new(secret, f"{key}.{at}.".encode() + body, hashlib.sha256).digest()
    said = base64.b64encode(digest).decode()
    return {"webhook-id": key, "webhook-timestamp": str(at), "webhook-signature": f"v1,{said}"}
