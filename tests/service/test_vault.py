"""Passwords in the records: which key encrypts, which decrypt, and what is said when none fits."""

from __future__ import annotations

import stat
from pathlib import Path

import pytest
from cryptography.fernet import Fernet

from harquel.core.errors import ConfigurationError
from harquel.service.sources.vault import FILE, VARIABLE, Vault

SECRET = "smôke & saltmere,\n“quoted”"


@pytest.fixture
def vault(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Vault:
    """One that has only its file."""
    monkeypatch.delenv(VARIABLE, raising=False)
    return Vault(tmp_path)


def test_the_first_use_makes_a_key_that_only_we_may_read(vault: Vault, tmp_path: Path) -> None:
    stored = vault.encrypt(SECRET)
    assert SECRET.encode() not in stored
    assert stat.S_IMODE((tmp_path / FILE).stat().st_mode) == 0o600
    assert [p.name for p in tmp_path.iterdir()] == [FILE]
    # Another one over the same folder reads the same file.
    assert Vault(tmp_path).decrypt(stored) == SECRET
    assert stored != vault.encrypt(SECRET)


def test_a_new_key_encrypts_and_the_old_ones_still_decrypt(vault: Vault, tmp_path: Path) -> None:
    before = vault.encrypt(SECRET)
    old = (tmp_path / FILE).read_text()
    assert vault.add_key()
    new, kept = (tmp_path / FILE).read_text().split()
    assert (kept, new != kept) == (old.strip(), True)
    assert vault.decrypt(before) == SECRET
    after = vault.rotate(before)
    # The old key may go once all was written anew.
    (tmp_path / FILE).write_text(new)
    assert vault.decrypt(after) == SECRET
    with pytest.raises(ConfigurationError, match="none of the keys fits") as caught:
        vault.decrypt(before)
    assert VARIABLE in (caught.value.hint or "")


def test_keys_of_the_environment_come_before_the_file(
    vault: Vault, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    in_file = vault.encrypt(SECRET)
    first, second = (Fernet.generate_key().decode() for _ in range(2))
    monkeypatch.setenv(VARIABLE, f" {first} , {second},")
    assert Fernet(first).decrypt(vault.encrypt(SECRET)).decode() == SECRET
    assert vault.decrypt(Fernet(second).encrypt(SECRET.encode())) == SECRET
    with pytest.raises(ConfigurationError):
        vault.decrypt(in_file)
    # Whoever gives keys keeps them: none is put into a file that nobody reads.
    text = (tmp_path / FILE).read_text()
    assert not vault.add_key()
    assert (tmp_path / FILE).read_text() == text


@pytest.mark.parametrize("broken", ["no key", "c2hvcnRlciB0aGFuIHRoaXJ0eS10d28gYnl0ZXM", "a,b"])
def test_a_key_that_is_none_is_said_without_saying_it(
    vault: Vault, monkeypatch: pytest.MonkeyPatch, broken: str
) -> None:
    monkeypatch.setenv(VARIABLE, broken)
    with pytest.raises(ConfigurationError, match="cannot be used") as caught:
        vault.encrypt(SECRET)
    assert broken not in f"{caught.value} {caught.value.hint}"


@pytest.mark.parametrize("stored", [b"", b"gAAAA", b"\x00\xff" * 40])
def test_what_was_spoilt_is_no_secret(vault: Vault, stored: bytes) -> None:
    with pytest.raises(ConfigurationError):
        vault.decrypt(stored)
