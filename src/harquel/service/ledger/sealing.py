"""Seals the ledger: the key lies apart from the records, seals in them and, where wanted, in a file elsewhere."""

from __future__ import annotations

import json
import os
from dataclasses import asdict
from pathlib import Path

from cryptography.exceptions import UnsupportedAlgorithm
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from cryptography.hazmat.primitives.serialization import (
    Encoding,
    NoEncryption,
    PrivateFormat,
    load_pem_private_key,
)
from django.db import transaction

from harquel.core.clock import utc_now
from harquel.core.errors import ConfigurationError
from harquel.core.ledger import Head as ChainHead
from harquel.core.ledger.seals import EVERY, Seal, made, name_of
from harquel.service.config import HarquelConfig

_END = b"-----END PRIVATE KEY-----\n"


class Sealer:
    """Knows the keys, the newest first; the first one seals, all of them verify."""

    def __init__(self, key_file: Path, anchors: Path | None) -> None:
        """Makes a key where there is none. Raises ConfigurationError for a file that cannot be used."""
        self._file, self.anchors = key_file, anchors
        try:
            if not key_file.exists():
                self._write(_pem(Ed25519PrivateKey.generate()))
            self._keys = _read(key_file.read_bytes())
            if anchors is not None:
                anchors.open("a").close()
        except (OSError, ValueError, UnsupportedAlgorithm) as error:
            raise ConfigurationError(
                f"The key of the ledger, {key_file}, or the file for its seals cannot be used: {error}.",
                "service.ledger_key holds Ed25519 keys in PEM, the newest first; to service.ledger_anchors is added.",
            ) from error

    def public(self) -> dict[str, Ed25519PublicKey]:
        """Every key that seals may have been made with, by its name, the one in use first."""
        return {name_of(k.public_key()): k.public_key() for k in self._keys}

    def rotate(self) -> str:
        """A new key in front; seals of the old ones go on holding. Returns its name."""
        new = Ed25519PrivateKey.generate()
        self._write(_pem(new) + self._file.read_bytes())
        self._keys = [new, *self._keys]
        return name_of(new.public_key())

    def seal(self, head: ChainHead) -> Seal:
        """A seal on the newest entry; runs inside the writer, in the transaction that adds it."""
        from .models import StoredSeal

        found = made(head, utc_now().isoformat(timespec="microseconds"), self._keys[0])
        fields = asdict(found)
        StoredSeal.objects.bulk_create(
            [StoredSeal(**fields)], update_conflicts=True, unique_fields=["seq"],
            update_fields=[name for name in fields if name != "seq"],
        )  # fmt: skip
        # Only what is committed: a seal on an entry that was taken back would look like tampering for ever.
        transaction.on_commit(lambda: self._anchor(found), robust=True)
        return found

    def _anchor(self, seal: Seal) -> None:
        if self.anchors is not None:
            with self.anchors.open("a", encoding="utf-8") as file:
                file.write(json.dumps(asdict(seal)) + "\n")

    def due(self, seq: int) -> bool:
        """Whether this entry is one of those that bear a seal."""
        return seq % EVERY == 0

    def anchored(self) -> list[Seal]:
        """The seals that lie elsewhere; lines that are none are left out."""
        if self.anchors is None or not self.anchors.exists():
            return []
        found = []
        for line in self.anchors.read_text("utf-8", "replace").splitlines():
            try:
                seal = Seal(**json.loads(line))
            except (ValueError, TypeError):
                continue
            if isinstance(seal.seq, int) and all(isinstance(v, str) for k, v in asdict(seal).items() if k != "seq"):
                found.append(seal)
        return found

    def _write(self, pem: bytes) -> None:
        draft = self._file.with_suffix(".part")
        with os.fdopen(os.open(draft, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as file:
            file.write(pem)
        draft.replace(self._file)


def _pem(key: Ed25519PrivateKey) -> bytes:
    return key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())


def _read(text: bytes) -> list[Ed25519PrivateKey]:
    keys = []
    for part in text.split(_END):
        if part.strip():
            key = load_pem_private_key(part + _END, None)
            if not isinstance(key, Ed25519PrivateKey):
                raise ValueError("another kind of key")
            keys.append(key)
    if not keys:
        raise ValueError("no key")
    return keys


_current: Sealer | None = None


def begin(sealer: Sealer | None) -> None:
    """From now on this one seals what is appended; None: nobody."""
    global _current
    _current = sealer


def sealer() -> Sealer | None:
    """The one in use."""
    return _current


def of(config: HarquelConfig) -> Sealer:
    """The one that a configuration asks for. Raises ConfigurationError."""
    anchors = config.service.ledger_anchors
    return Sealer(config.base / config.service.ledger_key, config.base / anchors if anchors else None)


def in_use() -> str | None:
    """The name of the key in use."""
    return next(iter(_current.public())) if _current is not None else None
