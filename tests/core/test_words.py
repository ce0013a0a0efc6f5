"""Words brought to a form in which they can be compared, by many threads at once."""

from __future__ import annotations

import sys
import threading

import pytest

from harquel.core.briefing.words import split, stem

WORDS = [
    f"{begin}{end}"
    for begin in ("departur", "cancel", "measur", "vessel", "book", "deliver", "schedul", "maintain", "operation")
    for end in ("es", "ing", "ed", "ly", "ness", "ation", "ful", "er", "al")
]


@pytest.mark.parametrize(("text", "words"), [
    ("amount_eur", ["amount", "eur"]), ("homeHarbour", ["home", "harbour"]), ("HTTPStatus2", ["http", "status", "2"]),
    ("Überfahrt", ["uberfahrt"]),
])  # fmt: skip
def test_names_are_split_where_people_hear_words(text: str, words: list[str]) -> None:
    assert split(text) == words


def test_many_threads_find_the_same_stems() -> None:
    """A question is read while other sources are being described; the stemmer itself knows one word at a time."""
    alone = {word: stem.__wrapped__(word) for word in WORDS}
    faults: list[str] = []

    def read() -> None:
        for _ in range(10):
            for word in WORDS:
                try:
                    if stem.__wrapped__(word) != alone[word]:
                        faults.append(word)
                except IndexError:
                    faults.append(f"{word}: broke")

    before = sys.getswitchinterval()
    sys.setswitchinterval(1e-6)
    try:
        threads = [threading.Thread(target=read) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    finally:
        sys.setswitchinterval(before)
    assert faults == []
