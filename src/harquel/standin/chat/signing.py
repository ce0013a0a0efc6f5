"""Signatures of messages, as Standard Webhooks describes them: written here once more, so that both sides check it."""

from __future__ import annotations

import base64
import hmac
import time
from collections.abc import Mapping


class Signer:
    """Signs and checks with one secret (whsec_ and base64)."""

    def __init__(self, secret: str) -> None:
        self._key = base64.b64decode(secret.strip().removeprefix("whsec_"))

    def headers(self, key: str, body: bytes) -> dict[str, str]:
        """Those of a message of this moment."""
        at = str(int(time.time()))
        return {"webhook-id": key, "webhook-timestamp": at, "webhook-signature": self._said(key, at, body)}

    def counts(self, headers: Mapping[str, str], body: bytes) -> bool:
        """Whether a message was signed by the other side a moment ago."""
        key, at = headers.get("webhook-id", ""), headers.get("webhook-timestamp", "")
        if not at.isdigit() or abs(time.time() - int(at)) > 300:
            return False
        return hmac.compare_digest(self._said(key, at, body), headers.get("webhook-signature", ""))

    def _said(self, key: str, at: str, body: bytes) -> str:
        digest = hmac.digest(self._key, b".".join((key.encode(), at.encode(), body)), "sha256")
        return f"v1,{base64.b64encode(digest).decode()}"
