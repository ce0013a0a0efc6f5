"""Secrets are blotted out wherever they turn up, as they are and as they stand in a URL."""

from __future__ import annotations

import pytest

from harquel.service import masking


@pytest.fixture(autouse=True)
def _alone(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(masking, "_known", set())


def test_as_it_is_as_in_a_url_and_more_than_once() -> None:
    masking.remember("p@ss/wörd")
    masking.remember("other secret")
    said = "postgresql://reader:p%40ss%2Fw%C3%B6rd@db/ferries refused p@ss/wörd, p@ss/wörd and other secret"
    assert masking.masked(said) == "postgresql://reader:•••@db/ferries refused •••, ••• and •••"
    assert masking.masked("nothing of it: p@ss/word") == "nothing of it: p@ss/word"


def test_what_is_too_short_would_blot_out_half_of_every_sentence() -> None:
    for secret in ("", "a", "the"):
        masking.remember(secret)
    assert masking.masked("the reader and the rows") == "the reader and the rows"


def test_a_line_of_the_log_is_masked_in_each_of_its_texts() -> None:
    masking.remember("s3cret!")
    event = {"event": "tried s3cret!", "source": "ferries", "number": 3, "hint": "not s3cret! again"}
    assert masking.mask_event(None, "info", event) == {
        "event": "tried •••", "source": "ferries", "number": 3, "hint": "not ••• again",
    }  # fmt: skip
