"""Makes the next entry: canonical bytes (RFC 8785) that hold the digest of the one before.

Texts do not stand in the entry. It holds their salted SHA-256 digests, so that a text can be blanked
later and the chain still holds; the salt keeps short texts from being guessed.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import rfc8785

VERSION = 1
_EXACT = 2**53


@dataclass(frozen=True)
class Head:
    """The newest entry: `seq` counts from 1 without gaps, `digest` is SHA-256 in hex."""

    seq: int
    digest: str


EMPTY_HEAD = Head(0, "0" * 64)


@dataclass(frozen=True)
class Sealed:
    """An entry ready to be stored. `texts` maps a name to (digest, salt in hex)."""

    head: Head
    body: bytes
    texts: dict[str, tuple[str, str]]


def text_digest(salt: str, text: str) -> str:
    """SHA-256 over the salt's bytes and the text in UTF-8, in hex; `salt` is hex."""
    return hashlib.sha256(bytes.fromhex(salt) + text.encode("utf-8", "surrogatepass")).hexdigest()


def _canonical(value: Any) -> Any:
    """What RFC 8785 cannot carry as a number goes as text."""
    if isinstance(value, bool) or value is None or isinstance(value, str):
        return value
    if isinstance(value, int):
        return value if abs(value) < _EXACT else str(value)
    if isinstance(value, float):
        return value if value - value == 0 else None
    if isinstance(value, Mapping):
        return {str(k): _canonical(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [_canonical(v) for v in value]
    return str(value)


def seal(
    previous: Head,
    *,
    at: dt.datetime,
    who: str,
    kind: str,
    inquiry: str | None,
    facts: Mapping[str, Any],
    texts: Mapping[str, str],
) -> Sealed:
    """The entry that follows `previous`. `at` is written in UTC with microseconds."""
    salted = {}
    for name, text in texts.items():
        salt = secrets.token_hex(16)
        salted[name] = (text_digest(salt, text), salt)
    body = rfc8785.dumps(
        {
            "v": VERSION,
            "seq": previous.seq + 1,
            "prev": previous.digest,
            "at": at.astimezone(dt.UTC).isoformat(timespec="microseconds"),
            "who": who,
            "kind": kind,
            "inquiry": inquiry,
            "facts": _canonical(facts),
            "texts": {name: digest for name, (digest, _) in salted.items()},
        }
    )
    return Sealed(Head(previous.seq + 1, hashlib.sha256(body).hexdigest()), body, salted)
