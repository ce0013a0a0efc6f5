"""Signed checkpoints: what is sealed cannot be rewritten without the key."""

from __future__ import annotations

import dataclasses
import time

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from harquel.core.ledger import Head
from harquel.core.ledger.seals import EVERY, Seal, fault_of, made, missing, name_of

KEY, OTHER = Ed25519PrivateKey.generate(), Ed25519PrivateKey.generate()
KEYS = {name_of(k.public_key()): k.public_key() for k in (KEY, OTHER)}
AT = "2026-09-14T10:00:00.000000+00:00"


def seal(seq: int = 200, digest: str = "a" * 64) -> Seal:
    return made(Head(seq, digest), AT, KEY)


def test_a_seal_holds_for_the_entry_that_it_was_made_on() -> None:
    assert fault_of(seal(), KEYS, {200: "a" * 64}.get) is None
    assert fault_of(seal(), KEYS, {200: "b" * 64}.get) == "it is not the entry that was sealed"
    assert fault_of(seal(), KEYS, {}.get) == "it was sealed, and is gone"


def test_no_field_of_a_seal_can_be_changed() -> None:
    stands = {200: "b" * 64, 201: "a" * 64}.get
    for change in ({"digest": "b" * 64}, {"seq": 201}, {"at": AT.replace("10", "11")}, {"signature": "00" * 64},
                   {"key": name_of(OTHER.public_key())}, {"signature": "no hex"}):  # fmt: skip
        assert "was not made with the key" in str(fault_of(dataclasses.replace(seal(), **change), KEYS, stands)), change
    assert "not known here" in str(fault_of(dataclasses.replace(seal(), key="0" * 16), KEYS, stands))


def test_a_seal_that_was_taken_away_is_missed() -> None:
    held = [seal(n) for n in (7, EVERY, 2 * EVERY, 3 * EVERY)]
    for since in (7, None):
        assert missing(held, 3 * EVERY + 50, since) is None
        assert missing(held[:2] + held[3:], 3 * EVERY + 50, since) == 2 * EVERY
        assert missing(held, 4 * EVERY, since) == 4 * EVERY
    assert missing([], 1000, None) is None


def test_where_sealing_began_is_known_from_the_chain_taking_all_away_is_missed() -> None:
    assert missing([], 1000, 7) == 7
    assert missing([seal(2 * EVERY)], 1000, 7) == 7


def test_the_check_of_many_seals_takes_no_quadratic_step() -> None:
    many = [dataclasses.replace(seal(), seq=n * EVERY) for n in range(1, 20_001)]
    started = time.process_time()
    assert missing(many, 20_000 * EVERY, EVERY) is None
    assert time.process_time() - started < 2.5
