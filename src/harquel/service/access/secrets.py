"""Token secrets: made here, kept as digests only."""

from __future__ import annotations

import hashlib
import secrets

PREFIX = "hqt_"


def new_secret() -> str:
    """A fresh secret with 256 bits of chance."""
    return PREFIX + secrets.token_urlsafe(32)


def digest(secret: str) -> str:
    """What is stored of it. A fast digest is enough: the secret is random, not a password."""
    return hashlib.sha256(secret.encode()).hexdigest()
