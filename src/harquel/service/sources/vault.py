"""Passwords in the records: encrypted with a key from the environment or from a file beside the records.

Fernet (the cryptography library's authenticated encryption). Several keys may be known; the first one
encrypts, all of them decrypt, and rotation writes everything anew with the first.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import Final

from cryptography.fernet import Fernet, InvalidToken, MultiFernet

from harquel.core.errors import ConfigurationError

VARIABLE: Final = "HARQUEL_SECRETS_KEY"
FILE: Final = "secrets.key"


class Vault:
    """Encrypts and decrypts. Keys are read at each use, so that a new one counts at once."""

    def __init__(self, data_dir: Path) -> None:
        self._file = data_dir / FILE

    def encrypt(self, secret: str) -> bytes:
        """Raises ConfigurationError for keys that cannot be used."""
        return self._box().encrypt(secret.encode())

    def decrypt(self, stored: bytes) -> str:
        """Raises ConfigurationError when none of the keys fits."""
        try:
            return self._box().decrypt(stored).decode()
        except InvalidToken as error:
            raise ConfigurationError(
                "A stored password cannot be decrypted: none of the keys fits.",
                f"Give the old key as well: {VARIABLE} takes several, with commas between, the newest first.",
            ) from error

    def rotate(self, stored: bytes) -> bytes:
        """The same secret, encrypted with the newest key."""
        return self._box().rotate(stored)

    def add_key(self) -> bool:
        """A new key in front of the file's; whether there was a file to put it in."""
        if os.environ.get(VARIABLE):
            return False
        self._keys()
        text = self._file.read_text("utf-8")
        self._write(Fernet.generate_key().decode() + "\n" + text)
        return True

    def _box(self) -> MultiFernet:
        try:
            return MultiFernet([Fernet(k) for k in self._keys()])
        except ValueError as error:
            raise ConfigurationError(
                "A key for stored passwords cannot be used.",
                f"{VARIABLE} and {FILE} hold Fernet keys: 32 bytes in URL-safe base64.",
            ) from error

    def _keys(self) -> list[str]:
        given = os.environ.get(VARIABLE)
        if given:
            return [k.strip() for k in given.split(",") if k.strip()]
        if not self._file.exists():
            self._write(Fernet.generate_key().decode() + "\n")
        return self._file.read_text("utf-8").split()

    def _write(self, text: str) -> None:
        draft = self._file.with_suffix(".part")
        with os.fdopen(os.open(draft, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.write(text)
        draft.replace(self._file)
