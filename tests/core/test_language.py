"""What is known of a language: which one a text is in, words that ask for nothing, and words that deny."""

from __future__ import annotations

import ast as python
import json
import pickle
import re
from pathlib import Path

import pytest
from fluent.syntax import FluentParser, FluentSerializer, ast

from harquel.core.briefing.words import stem, stems
from harquel.core.domain.notes import Notes
from harquel.core.language import language_of, pack
from harquel.core.language.english import ENGLISH
from harquel.core.language.german import GERMAN
from harquel.core.language.pack import bases, words
from harquel.core.language.say import in_language, said_as
from harquel.core.reading import Reading, understood_as
from harquel.testing.sources import NOW


@pytest.mark.parametrize(("text", "code"), [
    ("How many sailings were cancelled in August?", "en"), ("Wie viele Fahrten fielen im August aus?", "de"),
    ("Welche Schiffe sind älter als die „Aurelie“?", "de"), ("WHICH VESSELS ARE OLDER THAN THE AURELIE", "en"),
    # Names and figures speak for none.
    ("Quillhaven 2026", "en"), ("", "en"), ("???", "en"), ("Umsatz je Route und Monat für die „Marrow“", "de"),
])  # fmt: skip
def test_a_text_is_in_the_language_of_its_commonest_words(text: str, code: str) -> None:
    assert language_of(text) == code
    assert pack(code).code == code


ROOT = Path(__file__).resolve().parents[2] / "src" / "harquel"
MESSAGES = ROOT / "core" / "language" / "messages"


def messages(language: str) -> dict[str, set[str]]:
    """The messages of a language with the values that each needs, and the attributes that it has."""
    made = {}
    for name in (f"{language}.ftl", f"problems.{language}.ftl"):
        found = FluentParser().parse((MESSAGES / name).read_text())
        assert not [entry for entry in found.body if isinstance(entry, ast.Junk)]
        for entry in found.body:
            if isinstance(entry, ast.Message):
                assert entry.id.name not in made
                needs = set(re.findall(r"\$(\w+)", serialize_message(entry)))
                made[entry.id.name] = needs | {f".{a.id.name}" for a in entry.attributes}
    return made


def serialize_message(entry: ast.Message) -> str:
    return FluentSerializer().serialize(ast.Resource([entry]))


def test_each_message_is_there_in_each_language_with_the_same_values_and_is_said() -> None:
    english, german = messages("en"), messages("de")
    assert len(english) > 250
    assert list(english) == list(german)
    assert {m: v for m, v in english.items() if german[m] != v} == {}
    code = "\n".join(path.read_text() for path in ROOT.rglob("*.py"))
    # Named as it is, or put together of how it begins and of what it is about.
    begins = {found.strip("-") for found in re.findall(r'f"([a-z-]+-)\{', code)} | {"read"}
    unsaid = [m for m in english if f'"{m}"' not in code and not any(m.startswith(f"{b}-") for b in begins)]
    assert unsaid == []
    said = re.findall(
        r'\b(?:say\((?:[\w.]+|LANGUAGES\[0\]), |said_as\(\s*|ProblemError\(\s*\d+,\s*"[a-z-]+",\s*)"([a-z-]+)"', code
    )
    assert len(said) > 200
    assert set(said) - set(english) == set()


def test_what_people_read_comes_from_a_catalogue() -> None:
    # Three words in a row that stand in the code of an answer, an ending or an operation, as a text that is shown.
    prose, told = re.compile(r"[A-Za-z]{2,} [a-z]{2,} [a-z]{2,}"), []
    shown = {"title", "hint", "label", "text", "note", "problem"}
    raised = {"ProblemError", "SourceError", "ComputingError", "End", "ProblemNote", "note_of", "Ground", "Removal"}
    for path in [p for part in PEOPLE_READ for p in sorted((ROOT / part).rglob("*.py"))]:
        for call in (n for n in python.walk(python.parse(path.read_text())) if isinstance(n, python.Call)):
            named = python.unparse(call.func).rpartition(".")[2]
            given = [k.value for k in call.keywords if k.arg in shown] + (call.args if named in raised else [])
            texts = [str(c.value) for g in given for c in python.walk(g) if isinstance(c, python.Constant)]
            told += [f"{path.relative_to(ROOT)}: {text}" for text in texts if prose.search(text)]
    assert set(told) == TO_THE_MODEL


PEOPLE_READ = ("core/answers", "core/inquiry", "service")
TO_THE_MODEL = {
    "core/inquiry/second_opinion.py: Read the SQL, or put the question in other words.",
    "core/inquiry/second_opinion.py: Compare what the two look at.",
}
"""What a finding asks of the model that mends its draft."""


def test_what_is_made_before_it_is_known_who_reads_it_is_told_in_each_language() -> None:
    why = said_as("differs-figure", one="5", other="12")
    made = said_as("caveat-control-differs", model="careful", said=why)
    assert made == "Our own query, built from the question as careful reads it, gives another result: 12 instead of 5."
    assert in_language(made, "de").endswith("gibt ein anderes Ergebnis: 12 statt 5.")
    # What comes out of another process, or was never a message, is a text as it stands.
    assert in_language(pickle.loads(pickle.dumps(made)), "de") == in_language(made, "de")
    assert in_language(f"{made}!", "de") == f"{made}!"
    assert json.loads(json.dumps({"said": made})) == {"said": str(made)}
    assert type(in_language(made, "en")) is str


def test_a_question_is_understood_in_words_of_its_language() -> None:
    given = {
        "rows": "sailing", "figures": [{"figure": "average", "of": "sailing.delay", "only": [
            {"has": "booking", "at_least": 2, "only": [{"column": "booking.status", "is": "in", "values": ["a", "b"]}]}
        ]}], "per": [{"column": "sailing.scheduled_departure", "unit": "weekday"}],
        "during": [{"from": "2026-07-01", "until": "2026-08-01"}], "order": [{"by": 0}], "top": 3,
    }  # fmt: skip
    told = [part.text for part in understood_as(Reading.model_validate(given), Notes(), NOW, "de")]
    assert told == [
        "Zeilen von sailing", "im Juli 2026",
        "Durchschnitt von sailing.delay, wobei mindestens 2 von booking, wobei booking.status ist eines von a, b",
        "je Wochentag von sailing.scheduled_departure", "nach Wert 1, das Niedrigste zuerst", "die ersten 3",
    ]  # fmt: skip


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
