"""Which of several sources a question is about, by the questions of three schemas."""

from __future__ import annotations

import time
from collections import Counter
from pathlib import Path

import pytest
from trust.sources import indexes, questions

from harquel.core.briefing import CatalogIndex
from harquel.core.briefing.choose import chosen, ranked

NOWHERE = Path("/none")


@pytest.fixture(scope="module")
def known(tmp_path_factory: pytest.TempPathFactory) -> dict[str, CatalogIndex]:
    return indexes(tmp_path_factory.mktemp("sources"), NOWHERE)


def test_a_question_goes_where_its_words_are_known(known: dict[str, CatalogIndex]) -> None:
    ends = Counter[str]()
    for whose, question in questions(NOWHERE):
        first = chosen(ranked(question, known))
        ends["asked back" if first is None else "right" if first.name == whose else "wrong"] += 1
    assert ends.total() > 300
    assert ends["wrong"] <= 0.05 * ends.total()
    assert ends["right"] >= 0.8 * ends.total()


def test_a_number_a_time_and_light_words_are_of_no_source(known: dict[str, CatalogIndex]) -> None:
    for question in ("How many in 2026?", "Wie viele im letzten Quartal?", "", "12 12 12", "last year"):
        assert {one.score for one in ranked(question, known)} == {0}
        assert chosen(ranked(question, known)) is None


def test_the_same_source_twice_is_asked_back(known: dict[str, CatalogIndex]) -> None:
    twice = {"one": known["ferries"], "two": known["ferries"]}
    order = ranked("How many sailings were cancelled?", twice)
    assert [one.name for one in order] == ["one", "two"]
    assert chosen(order) is None
    assert chosen(ranked("How many sailings were cancelled?", {"one": known["ferries"]})) is not None


def test_a_long_question_costs_no_more_than_its_words(known: dict[str, CatalogIndex]) -> None:
    """Eight times the words, all of them of values, take about eight times as long: a quadratic step would take 64."""

    def seconds(words: int) -> float:
        text = "Quillhaven web " * words
        best = 1e9
        for _ in range(3):
            started = time.process_time()
            ranked(text, known)
            best = min(best, time.process_time() - started)
        return best

    assert seconds(1600) < 24 * max(seconds(200), 1e-4)
