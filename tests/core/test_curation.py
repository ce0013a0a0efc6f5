"""Notes, policies and examples as documents: what an edit changes and leaves, and what is nearly the same."""

from __future__ import annotations

import random
from typing import Any, Literal

import pytest

from harquel.core.briefing.rank import likeness
from harquel.core.briefing.words import stems
from harquel.core.curation import (
    Pair,
    edited_notes,
    edited_policy,
    examples,
    near_duplicates,
    read_document,
    read_pairs,
    read_yaml,
    write_pairs,
)
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.errors import ConfigurationError

NOTES = """\
text: All times are UTC.
tables:
  vessel:
    text: A ship, or a “boat”.
    columns:
      status: {text: where it stands, codes: {A: active, L: laid up}}
      built_year: {unit: year}
"""


def test_an_edit_changes_what_it_names_and_leaves_the_rest_in_its_order() -> None:
    edit = {"text": "", "when": "launched_on", "synonyms": ["ship"], "label": None,
            "columns": {"status": {"codes": {"A": "in service"}}, "name": {"text": "as painted"}}}  # fmt: skip
    text = edited_notes(NOTES, "vessel", edit)
    found = read_document(text, Notes, "notes")
    vessel = found.of("vessel")
    assert (found.text, vessel.text, vessel.when, vessel.synonyms) == (
        "All times are UTC.",
        "",
        "launched_on",
        ("ship",),
    )
    assert vessel.columns["status"].text == "where it stands"
    assert vessel.columns["status"].codes == {"A": "in service"}
    assert list(read_yaml(text)["tables"]["vessel"]["columns"]) == ["status", "built_year", "name"]
    # What is empty goes, and so does a table of which nothing is left.
    bare = edited_notes(text, "vessel", {"when": "", "synonyms": [], "columns": {
        "status": {"text": "", "codes": {}}, "name": {"text": ""}, "built_year": {"unit": ""}}})  # fmt: skip
    assert read_yaml(bare) == {"text": "All times are UTC.", "tables": {}}
    assert read_document(edited_notes("", "berth", {"text": "a place"}), Notes, "notes").of("berth").text == "a place"


def test_an_edit_that_is_no_note_changes_nothing() -> None:
    for wrong in ({"colour": "grey"}, {"columns": {"status": {"codes": "A"}}}, {"synonyms": "ship"}):
        with pytest.raises(ConfigurationError, match=r"notes"):
            edited_notes(NOTES, "vessel", wrong)


@pytest.mark.parametrize(("policy", "column", "wanted", "withhold"), [
    ("", "", False, ["vessel"]), ("", "status", False, ["vessel.status"]),
    ("expose: {withhold: [Vessel.Status, harbour]}", "status", True, ["harbour"]),
    # A pattern that somebody wrote stays as it is.
    ("expose: {withhold: ['vessel.*', harbour]}", "status", True, ["vessel.*", "harbour"]),
    ("expose: {withhold: [vessel]}", "", True, []),
])  # fmt: skip
def test_what_is_exposed_and_withheld(policy: str, column: str, wanted: bool, withhold: list[str]) -> None:
    known = read_document(policy, Policy, "policy")
    made = read_document(edited_policy(policy, known, "vessel", {column: wanted}, {}), Policy, "policy")
    assert list(made.expose.withhold) == withhold


def test_a_table_outside_the_patterns_is_named_and_what_is_so_already_is_left() -> None:
    text = "expose: {tables: [har*]}"
    known = read_document(text, Policy, "policy")
    made = read_document(edited_policy(text, known, "vessel", {"": True}, {}), Policy, "policy")
    assert (made.expose.tables, made.shows("vessel", None)) == (("har*", "vessel"), True)
    same = edited_policy(text, known, "harbour", {"": True}, {})
    assert read_yaml(same) == read_yaml(text)


def test_personal_is_marked_or_cleared_never_both() -> None:
    text = "personal: {columns: [Vessel.Captain, crew.name], cleared: [vessel.name]}"
    known = read_document(text, Policy, "policy")
    made = edited_policy(text, known, "vessel", {}, {"captain": False, "name": True})
    assert read_yaml(made)["personal"] == {"columns": ["crew.name", "vessel.name"], "cleared": ["vessel.captain"]}


PAIRS = [
    Pair(question="How many “ships”?\nAll of them.", sql="SELECT COUNT(*)\nFROM vessel -- all", tags=("fleet", "ü")),
    Pair(question="yes", sql="SELECT 1", author="Odo Finch"),
]


@pytest.mark.parametrize("form", ["yaml", "jsonl"])
def test_pairs_come_out_of_a_file_as_they_went_in(form: Literal["yaml", "jsonl"]) -> None:
    for pairs in (PAIRS, []):
        assert read_pairs(write_pairs(pairs, form), form, "bank") == pairs


@pytest.mark.parametrize(("text", "form"), [
    ("question: one", "yaml"), ("- {question: one}", "yaml"), ("- [", "yaml"),
    ("- {question: '', sql: SELECT 1}", "yaml"), ("7", "jsonl"),
    ("- {question: a, sql: b, rating: 5}", "yaml"), ('{"question": "a"', "jsonl"), ('["a", "b"]', "jsonl"),
])  # fmt: skip
def test_what_has_another_form_is_said(text: str, form: Literal["yaml", "jsonl"]) -> None:
    with pytest.raises(ConfigurationError, match="The examples bank have a wrong form"):
        read_pairs(text, form, "bank")


def by_hand(questions: list[str]) -> dict[int, list[int]]:
    """Each held against each."""
    words = [set(stems(q)) for q in questions]
    pairs = {n: [m for m in range(len(words)) if m != n and likeness(words[n], words[m]) >= examples.ALIKE]
             for n in range(len(words))}  # fmt: skip
    return {n: others for n, others in pairs.items() if others}


def test_what_is_nearly_the_same_is_found_as_if_each_were_held_against_each() -> None:
    draw = random.Random(7)
    known = [f"{a}{b}" for a in ("harb", "vess", "tick", "crew") for b in ("a", "o", "ura", "ine", "esk", "umt", "ord")]
    questions = [" ".join(draw.sample(known, draw.randint(1, 9))) for _ in range(120)]
    # Near ones among them: a word more, a word less, another order.
    for place in range(0, 120, 3):
        changed = questions[place].split() + draw.sample(known, 1)
        draw.shuffle(changed)
        questions.append(" ".join(changed[: draw.randint(len(changed) - 1, len(changed))]))
    found = near_duplicates(questions)
    assert found == by_hand(questions)
    assert len(found) > 40


@pytest.mark.parametrize("alike", [True, False])
def test_a_large_bank_is_not_held_against_itself(alike: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    held: list[Any] = []
    monkeypatch.setattr(examples, "likeness", lambda *sets: held.append(1) or likeness(*sets))
    same = "how many green tickets of the night crew were sold in the old harbour before winter storms"
    found = near_duplicates([f"{same} {n}" if alike else f"{same[: n % 40]} x{n} y{n} z{n}" for n in range(2000)])
    assert len(held) <= 2000 * 200
    assert max(map(len, found.values()), default=0) <= examples.MOST_ALIKE
    assert bool(found) is alike
