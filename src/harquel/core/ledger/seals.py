"""Checkpoints of the chain, signed: whoever rewrites what is sealed needs the key, which lies apart from the records.

Ed25519 (RFC 8032) over the canonical JSON (RFC 8785) of number, digest and time. A seal proves that the entry with that
digest stood there when the seal was made; what came later, only the next seal or a head noted elsewhere shows.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Final

import rfc8785
from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey

from .chain import Head

EVERY: Final = 200
"""Entries between two seals, at most."""


@dataclass(frozen=True)
class Seal:
    """`key` names the public key, `signature` is hex, `at` ISO 8601 in UTC."""

    seq: int
    digest: str
    at: str
    key: str
    signature: str


def name_of(key: Ed25519PublicKey) -> str:
    """The first 16 hex digits of the SHA-256 of a public key's 32 bytes."""
    return hashlib.sha256(key.public_bytes_raw()).hexdigest()[:16]


def made(head: Head, at: str, key: Ed25519PrivateKey) -> Seal:
    """A seal on the newest entry."""
    signature = key.sign(_said(head.seq, head.digest, at)).hex()
    return Seal(head.seq, head.digest, at, name_of(key.public_key()), signature)


def fault_of(seal: Seal, keys: Mapping[str, Ed25519PublicKey], digest_at: Callable[[int], str | None]) -> str | None:
    """What is wrong with a seal; None when it holds. `digest_at` gives the digest of an entry as it stands."""
    key = keys.get(seal.key)
    if key is None:
        return f"its seal was made with a key that is not known here ({seal.key})"
    try:
        key.verify(bytes.fromhex(seal.signature), _said(seal.seq, seal.digest, seal.at))
    except (InvalidSignature, ValueError, TypeError):
        return "its seal was not made with the key that it names"
    found = digest_at(seal.seq)
    if found is None:
        return "it was sealed, and is gone"
    return None if found == seal.digest else "it is not the entry that was sealed"


def missing(seals: Iterable[Seal], last: int, since: int | None) -> int | None:
    """The first entry that should bear a seal and does not: `since`, where sealing began, and one of every 200 on.

    Without `since`, where it is not known, the first seal that is there counts as the beginning.
    """
    held = {s.seq for s in seals}
    begins = since if since is not None else min(held, default=None)
    if begins is None:
        return None
    if begins not in held:
        return begins
    return next((n for n in range(-(-begins // EVERY) * EVERY, last + 1, EVERY) if n not in held), None)


def _said(seq: int, digest: str, at: str) -> bytes:
    return rfc8785.dumps({"v": 1, "seq": seq, "digest": digest, "at": at})
