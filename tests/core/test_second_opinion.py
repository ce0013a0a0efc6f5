"""Second opinions, silenced findings, questions asked back: whole inquiries with models that say what a script has."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any, Literal

import pytest

from harquel.core.briefing import Describer
from harquel.core.domain.events import Unwatched
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Approval, ReviewTerms
from harquel.core.errors import ModelUnreachable
from harquel.core.inquiry.conduct import conduct
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import Completion, LanguageModel, Message
from harquel.testing.scripted import Scripted
from harquel.testing.sources import NOW, Recorder, ask, demo_policy
from tests.core.conftest import Make

QUESTION = "How many sailings were cancelled in August 2026?"
SPAN = "scheduled_departure >= '2026-08-01' AND scheduled_departure < '2026-09-01'"
RIGHT = f"SELECT COUNT(*) AS n FROM sailing WHERE status = 'X' AND {SPAN}"
OTHERWISE = f"SELECT SUM(CASE WHEN status = 'X' THEN 1 ELSE 0 END) AS cancelled FROM sailing WHERE {SPAN}"
WRONG = "SELECT COUNT(*) AS n FROM sailing WHERE status = 'X'"
DOUBTFUL = f"SELECT COUNT(*) AS n FROM sailing WHERE status = 'cancelled' AND {SPAN}"
"""Whatever was asked, something is wrong with it: the column holds codes."""


class Replies(Scripted):
    """Says a text, whatever it is, the next one when it is told of a fault, and keeps what it was asked."""

    def __init__(self, *texts: str) -> None:
        super().__init__("")
        self.texts, self.asked = texts, list[list[Message]]()

    def complete(
        self,
        messages: list[Message],
        *,
        on_piece: Callable[[str], None] | None,
        stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:
        self.asked.append(messages)
        turn = sum(m["role"] == "assistant" for m in messages)
        return Completion(self.texts[min(turn, len(self.texts) - 1)], 10, 5)


class Silent(Scripted):
    def complete(self, *_: Any, **__: Any) -> Completion:
        raise ModelUnreachable("nobody answers")


def with_second(
    source: Source, second: LanguageModel | None, when: Literal["never", "in-doubt", "always"] = "always", **policy: Any
) -> Source:
    terms = demo_policy().model_copy(update={"review": ReviewTerms(second_opinion=when), **policy})
    return replace(source, describer=Describer(terms, source.notes), second=second)


def asked(make: Make, first: str, second: LanguageModel | None, when: Any = "always", **policy: Any) -> Inquiry:
    source = make(Scripted(first))
    return ask(with_second(source, second, when, **policy), QUESTION)


def rules(inquiry: Inquiry) -> list[str]:
    assert inquiry.answer is not None, inquiry.problem
    return [c.rule for c in inquiry.answer.caveats]


def test_a_difference_is_a_caveat_with_both(make: Make) -> None:
    found = asked(make, WRONG, Scripted(RIGHT))
    assert found.answer is not None
    assert found.second_opinion is not None
    assert found.second_opinion.table is not None
    (said,) = [c.message for c in found.answer.caveats if c.rule == "second-differs"]
    assert f"12 instead of {found.answer.table.rows[0][0]}" in said
    assert found.second_opinion.table.rows == [[12]]
    assert "'X'" in str(found.second_opinion.read_back)
    # A second draft that is itself doubtful says so.
    turned = asked(make, RIGHT, Scripted(DOUBTFUL))
    assert turned.answer is not None
    assert "It is doubtful itself" in turned.answer.caveats[0].message


@pytest.mark.parametrize(("when", "first", "calls"), [
    ("never", DOUBTFUL, 2), ("never", RIGHT, 1), ("in-doubt", RIGHT, 2), ("always", RIGHT, 2),
])  # fmt: skip
def test_it_is_asked_for_when_the_policy_says(make: Make, when: str, first: str, calls: int) -> None:
    assert asked(make, first, Scripted(RIGHT), when).usage.calls == calls


@pytest.mark.parametrize(("second", "said"), [
    (Silent(""), "nobody answers"),
    (Replies('{"cannot": "not-in-data", "why": "no"}'), "No second draft"),
    (Replies("nonsense"), "No second draft"),
    (Scripted("DELETE FROM sailing"), "may not run"),
    (Scripted("SELECT COUNT(*) FROM sailing WHERE json_extract(status, '$[') = 1"), "malformed JSON"),
])  # fmt: skip
def test_whatever_goes_wrong_with_it_leaves_the_answer_unconfirmed(
    make: Make, second: LanguageModel, said: str
) -> None:
    """Which is said, and goes back to no model: nothing is known against it."""
    found = asked(make, RIGHT, second)
    assert found.answer is not None
    assert found.answer.table.rows == [[12]]
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, rules(found), len(found.attempts)) == (None, ["unconfirmed"], 1)
    assert said in found.second_opinion.said


@pytest.mark.parametrize("another", [False, True])
def test_who_is_asked_second_sees_neither_the_first_draft_nor_an_example(make: Make, another: bool) -> None:
    reply = json.dumps({"sql": RIGHT, "explanation": ""})
    model = Replies(reply)
    other = Replies(reply) if another else None
    source = make(model)
    inquiry = ask(with_second(source, other), QUESTION)
    first, second = model.asked + (other.asked if other is not None else [])
    assert "## Examples" in first[1]["content"]
    assert "## Examples" not in second[1]["content"]
    assert "COUNT(*)" not in second[1]["content"].split("## Question")[1]
    assert inquiry.second_opinion is not None
    assert inquiry.second_opinion.agrees


def test_it_is_on_record_and_nothing_is_run_that_would_be_held(make: Make) -> None:
    recorder = Recorder()
    source = make(Scripted(RIGHT))
    inquiry = Inquiry(id="t", state="working", source="ferries", question=QUESTION, asked_by="A", asked_at=NOW)
    conduct(inquiry, with_second(source, Scripted(OTHERWISE)), recorder, NOW)
    told = [(e.kind, e.facts.get("duty")) for e in recorder.events]
    assert told[-6:] == [
        ("ruled", "second opinion"), ("found", "second opinion"), ("planned", "second opinion"),
        ("ruled", "second opinion"), ("ran", "second opinion"), ("compared", None),
    ]  # fmt: skip
    assert sum(kind == "ran" for kind, _ in told) == 2
    held = asked(make, RIGHT, Scripted("SELECT COUNT(*) FROM incident"), approval=Approval(tables=("incident",)))
    assert held.second_opinion is not None
    assert "would have to be released" in held.second_opinion.said


def test_beyond_its_tokens_an_inquiry_asks_no_model_any_more(make: Make) -> None:
    class Talker(Replies):
        def complete(self, *given: Any, **named: Any) -> Completion:
            return replace(super().complete(*given, **named), prompt_tokens=900, completion_tokens=100)

    limits = demo_policy().limits.model_copy(update={"inquiry_tokens": 1000})
    for sql, outcome in ((WRONG, "answered"), ("SELECT nothing FROM sailing", "failed")):
        talker = Talker(json.dumps({"sql": sql, "explanation": ""}))
        source = make(talker)
        found = ask(with_second(source, Scripted(RIGHT), limits=limits), QUESTION)
        assert (found.outcome, found.usage.calls) == (outcome, 1)
        if found.second_opinion is not None:
            assert "more tokens than it may" in found.second_opinion.said
        else:
            assert found.problem is not None
            assert found.problem.policy_line == "limits.inquiry_tokens"


def test_a_silenced_finding_does_not_count_and_the_answer_says_so(ferries: Path, make: Make) -> None:
    source = make(Scripted(DOUBTFUL))
    inquiry = Inquiry(
        id="t", state="working", source="ferries", question=QUESTION, asked_by="A", asked_at=NOW,
        silenced=["code-by-meaning", "multiplied", "unconfirmed", "not-known"],
    )  # fmt: skip
    conduct(inquiry, source, Unwatched(), NOW, Person("A"))
    assert inquiry.answer is not None
    assert len(inquiry.attempts) == 1
    caveat = inquiry.answer.caveats[-1]
    assert ([c.rule for c in inquiry.answer.caveats], inquiry.trust) == (["result-empty", "silenced"], "caution")
    assert "code-by-meaning, multiplied" in caveat.message
    assert "is stored as 'X'" in caveat.message


def test_a_model_that_cannot_decide_may_ask_back_once(ferries: Path, make: Make) -> None:
    reply = json.dumps({"ask": "By which time?", "readings": ["when booked", "when sailed", "when booked"]})
    source = make(Replies(reply))
    back = ask(source, QUESTION)
    again = Inquiry(
        id="t", state="working", source="ferries", question=QUESTION, asked_by="A", asked_at=NOW, choice="1",
        standalone_question=f"{QUESTION} (meaning: when booked)",
    )  # fmt: skip
    conduct(again, source, Unwatched(), NOW)
    assert back.clarify is not None
    assert [(c.id, c.label) for c in back.clarify.choices] == [("1", "when booked"), ("2", "when sailed")]
    assert (again.outcome, again.clarify) == ("failed", None)
    assert "likelier" in again.attempts[0].findings[0].message


def test_rows_that_a_loose_join_repeats_are_seen_in_the_data(make: Make) -> None:
    """Weather is read every three hours: a day of sailings meets it eight times."""
    draft = "SELECT SUM(s.id) AS n FROM sailing s JOIN weather_reading w ON date(w.measured_at) = "
    draft += "date(s.scheduled_departure) WHERE s.scheduled_departure >= '2026-07-01' AND s.scheduled_departure < "
    found = ask(make(Scripted(f"{draft}'2026-07-03'")), "Total of sailings in July 2026 with the wind of the day")
    assert found.answer is not None
    said = {c.rule: c.message for c in found.answer.caveats}
    assert "counted more than once" in said.get("total-differs", ""), said
