"""What is known of a language: which one a text is in, words that ask for nothing, and words that deny."""

from __future__ import annotations

import pytest

from harquel.core.briefing.words import stem, stems
from harquel.core.language import language_of, pack
from harquel.core.language.english import ENGLISH
from harquel.core.language.german import GERMAN
from harquel.core.language.pack import bases, words


@pytest.mark.parametrize(("text", "code"), [
    ("How many sailings were cancelled in August?", "en"), ("Wie viele Fahrten fielen im August aus?", "de"),
    ("Welche Schiffe sind älter als die „Aurelie“?", "de"), ("WHICH VESSELS ARE OLDER THAN THE AURELIE", "en"),
    # Names and figures speak for none.
    ("Quillhaven 2026", "en"), ("", "en"), ("???", "en"), ("Umsatz je Route und Monat für die „Marrow“", "de"),
])  # fmt: skip
def test_a_text_is_in_the_language_of_its_commonest_words(text: str, code: str) -> None:
    assert language_of(text) == code
    assert pack(code).code == code


@pytest.mark.parametrize("known", [ENGLISH, GERMAN], ids=lambda p: p.code)
def test_what_denies_always_asks_for_something(known: object) -> None:
    assert isinstance(known, type(ENGLISH))
    assert known.denials
    assert not known.denials & known.light
    for group in (known.commonest, known.light, known.denials, known.empty):
        assert all(word == word.casefold() and word.split() == [word] for word in group)


def test_forms_that_no_rule_of_endings_knows_come_to_one_stem() -> None:
    for form, word in ENGLISH.bases.items():
        assert stem(form) == stem(word), form
    assert stems("Which people SOLD children's tickets?") == stems("persons selling a child's ticket")
    assert bases("sell sold, buy bought boughten") == {"sold": "sell", "bought": "buy", "boughten": "buy"}


def test_what_says_nothing_is_left_out_and_names_are_taken_apart() -> None:
    assert stems("How many of the most per each?") == []
    assert stems("customerID_2 homeHarbour") == stems("customer id 2 home harbour")
    assert words("  The OF\nin ") == frozenset({"the", "of", "in"})
