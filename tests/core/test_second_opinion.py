"""Second opinions, silenced findings, questions asked back: whole inquiries with models that say what a script has."""

from __future__ import annotations

import json
import shutil
import sqlite3
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any, Literal

import pytest
from trust.measure import source_with

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

QUESTION = "How many sailings were cancelled in August 2026?"
SPAN = "scheduled_departure >= '2026-08-01' AND scheduled_departure < '2026-09-01'"
RIGHT = f"SELECT COUNT(*) AS n FROM sailing WHERE status = 'X' AND {SPAN}"
OTHERWISE = f"SELECT SUM(CASE WHEN status = 'X' THEN 1 ELSE 0 END) AS cancelled FROM sailing WHERE {SPAN}"
DOUBTFUL = "SELECT COUNT(*) AS n FROM sailing WHERE status = 'X'"


class Replies(Scripted):
    """Says one text, whatever it is, and keeps what it was asked."""

    def __init__(self, text: str) -> None:
        super().__init__("")
        self.text, self.asked = text, list[list[Message]]()

    def complete(
        self,
        messages: list[Message],
        *,
        on_piece: Callable[[str], None] | None,
        stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:
        self.asked.append(messages)
        return Completion(self.text, 10, 5)


class Told(Scripted):
    """Keeps what it was told."""

    def __init__(self, *drafts: str) -> None:
        super().__init__(*drafts)
        self.told: list[list[Message]] = []

    def complete(self, messages: list[Message], **more: Any) -> Completion:
        self.told.append(list(messages))
        return super().complete(messages, **more)


class Silent(Scripted):
    def complete(self, *_: Any, **__: Any) -> Completion:
        raise ModelUnreachable("nobody answers")


def with_second(
    source: Source, second: LanguageModel | None, when: Literal["never", "in-doubt", "always"] = "always", **policy: Any
) -> Source:
    terms = demo_policy().model_copy(update={"review": ReviewTerms(second_opinion=when), **policy})
    return replace(source, describer=Describer(terms, source.notes), second=second)


def asked(ferries: Path, first: str, second: LanguageModel | None, when: Any = "always", **policy: Any) -> Inquiry:
    with source_with(ferries, Scripted(first)) as source:
        return ask(with_second(source, second, when, **policy), QUESTION)


def rules(inquiry: Inquiry) -> list[str]:
    assert inquiry.answer is not None, inquiry.problem
    return [c.rule for c in inquiry.answer.caveats]


def test_two_ways_that_share_nothing_outweigh_doubts_about_words(ferries: Path) -> None:
    found = asked(ferries, RIGHT, Scripted(OTHERWISE))
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, found.trust) == (True, "clear")
    assert found.second_opinion.table is None
    assert found.usage.calls == 2
    # A period is missed in both: no word of it is doubted any more, nothing goes back, and all of it is on record.
    doubted = asked(ferries, DOUBTFUL, Scripted(DOUBTFUL.replace("COUNT(*)", "COUNT(id)")))
    assert doubted.second_opinion is not None
    assert (doubted.second_opinion.agrees, doubted.trust, doubted.usage.calls) == (True, "clear", 2)
    assert doubted.second_opinion.said.endswith("settled by that: period-left-out")
    (attempt,) = doubted.attempts
    assert ("period-left-out", "error") in {(f.rule, f.severity) for f in attempt.findings}


RANKED = "SELECT h.name, COUNT(*) AS n FROM customer c JOIN harbour h ON h.id = c.home_harbour GROUP BY h.name"


@pytest.mark.parametrize(("first", "second", "left"), [
    (f"{RANKED} ORDER BY n", f"{RANKED} ORDER BY n DESC", ["wrong-order"]),
    (f"{RANKED} ORDER BY n DESC", f"{RANKED} ORDER BY n DESC, h.name", []),
    # Only names are vouched for: what the query counts beside them is not.
    (f"{RANKED.replace('COUNT(*)', 'COUNT(*) + 1')} ORDER BY n DESC",
     f"SELECT name FROM ({RANKED}) AS q ORDER BY n DESC", ["default-filter"]),
])  # fmt: skip
def test_agreement_settles_only_what_it_has_compared(ferries: Path, first: str, second: str, left: list[str]) -> None:
    with source_with(ferries, Scripted(first)) as source:
        found = ask(with_second(source, Scripted(second)), "Which harbours have the most customers, most first?")
    assert found.second_opinion is not None
    assert found.second_opinion.agrees is True, found.second_opinion.said
    assert rules(found) == left


def test_a_repaired_draft_without_a_doubt_is_held_against_the_second_way_too(ferries: Path) -> None:
    first = Told(DOUBTFUL, RIGHT.replace("'X'", "'D'"))
    with source_with(ferries, first) as source:
        found = ask(with_second(source, Scripted(RIGHT), "in-doubt"), QUESTION)
    assert found.second_opinion is not None
    assert (found.trust, found.second_opinion.agrees) == ("caution", False)
    assert "second-differs" in rules(found)


def test_what_is_wrong_whatever_was_asked_outlives_agreement(ferries: Path) -> None:
    lost = RIGHT.replace("< '2026-09-01'", "<= '2026-08-31'")
    found = asked(ferries, lost, Scripted(lost.replace("COUNT(*)", "COUNT(id)")))
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, found.trust) == (True, "caution")
    assert rules(found) == ["last-day-lost"]


def test_a_model_that_repeats_itself_proves_nothing(ferries: Path) -> None:
    found = asked(ferries, DOUBTFUL, None)
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, found.second_opinion.said) == (True, "It is the same statement")
    assert (found.trust, "second-differs" in rules(found)) == ("caution", False)


def test_another_figure_goes_back_once_and_the_draft_that_agrees_answers(ferries: Path) -> None:
    """In figures only where values may leave for a model."""
    for values, told in (("all", "12 instead of 14"), ("none", "")):
        first = Told(RIGHT.replace("'X'", "'D'"), OTHERWISE)
        with source_with(ferries, first) as source:
            terms = source.policy.prompts.model_copy(update={"values": values})
            found = ask(with_second(source, Scripted(RIGHT), prompts=terms), QUESTION)
        assert found.second_opinion is not None
        assert (found.second_opinion.agrees, found.trust, len(found.attempts)) == (True, "clear", 2)
        assert found.answer is not None
        assert found.answer.table.rows == [[12]]
        said = first.told[1][-1]["content"]
        assert "[second-differs]" in said
        assert ("12 instead of" in said) == bool(told), said


BY_HARBOUR = "SELECT {} AS harbour, COUNT(*) AS n FROM customer c JOIN harbour h ON h.id = c.home_harbour GROUP BY {}"


@pytest.mark.parametrize(("first", "second", "agrees"), [
    ("h.name", "h.code", True), ("h.code", "c.home_harbour", True), ("h.id", "h.name", True),
    ("h.name", "h.island", False),
])  # fmt: skip
def test_a_key_or_its_label_is_the_same_where_the_database_ties_them(
    ferries: Path, first: str, second: str, agrees: bool
) -> None:
    """By a query of ours: not by the look of a text, nor where several rows share a label."""
    with source_with(ferries, Scripted(BY_HARBOUR.format(first, first))) as source:
        other = Scripted(BY_HARBOUR.format(second, second))
        found = ask(with_second(source, other), "How many customers has each harbour?")
    assert found.second_opinion is not None
    assert found.second_opinion.agrees is agrees, found.second_opinion.said


@pytest.mark.parametrize(("first", "second"), [
    # One to one in the data, and still another answer: what a thing is called is not what it has.
    ("SELECT name FROM harbour ORDER BY id", "SELECT code FROM harbour ORDER BY id"),
    ("SELECT name, launched_on FROM vessel GROUP BY id, name, launched_on",
     "SELECT name, refit_on FROM vessel GROUP BY id, name, refit_on"),
])  # fmt: skip
def test_columns_that_lie_side_by_side_are_no_names_of_each_other(
    ferries: Path, first: str, second: str, tmp_path: Path
) -> None:
    copied = tmp_path / "tied.db"
    shutil.copyfile(ferries, copied)
    with sqlite3.connect(copied) as connection:
        connection.execute("ALTER TABLE vessel ADD COLUMN launched_on DATE")
        connection.execute("ALTER TABLE vessel ADD COLUMN refit_on DATE")
        connection.execute("UPDATE vessel SET launched_on = date('2000-01-01', id || ' days')")
        connection.execute("UPDATE vessel SET refit_on = date(launched_on, '10 years')")
    connection.close()
    with source_with(copied, Scripted(first)) as source:
        found = ask(with_second(source, Scripted(second)), "List them all")
    assert found.second_opinion is not None
    assert found.second_opinion.agrees is False, found.second_opinion.said


STAFF = "SELECT COUNT(*) AS n FROM booking b JOIN customer c ON c.id = b.customer_id WHERE b.status = 'confirmed'"


@pytest.mark.parametrize(("first", "second", "why"), [
    (STAFF, f"{STAFF} AND c.is_staff = 0",
     "12,634 instead of 12,838. It also asks that is staff of customer is 0 (not staff); without that the two agree"),
    (f"{STAFF} AND c.is_staff = 0", STAFF,
     "This answer also asks that is staff of customer is 0 (not staff); without that"),
    (f"{RANKED} ORDER BY n DESC LIMIT 5", f"{RANKED} ORDER BY n DESC", "This answer stops after 5 rows; without that"),
    # Said in other words it is no difference; of two conditions neither explains it alone.
    (f"{STAFF} AND b.id < 100", f"{STAFF} AND NOT b.id >= 50", ""),
    (STAFF, f"{STAFF} AND c.is_staff = 0 AND b.id < 5000", ""),
])  # fmt: skip
def test_a_condition_that_makes_the_difference_is_named_once_it_was_tried(
    ferries: Path, first: str, second: str, why: str
) -> None:
    with source_with(ferries, Scripted(first)) as source:
        found = ask(with_second(source, Scripted(second)), "How many confirmed bookings are there?")
    assert found.second_opinion is not None
    assert found.second_opinion.agrees is False
    assert " instead of " in found.second_opinion.said
    assert (why in found.second_opinion.said) if why else ("without that" not in found.second_opinion.said)


def test_what_is_told_of_the_second_way_is_about_the_draft_that_answers(ferries: Path) -> None:
    """The earlier draft is the better one: what is said beside it is what was said of it."""
    worse = f"{DOUBTFUL} AND delay_reason IS NULL AND vessel_id = 1"
    with source_with(ferries, Told(DOUBTFUL, worse)) as source:
        found = ask(with_second(source, Scripted(RIGHT), "in-doubt"), QUESTION)
    assert found.answer is not None
    assert found.second_opinion is not None
    assert "vessel_id" not in found.answer.sql
    assert f"12 instead of {found.answer.table.rows[0][0]}" in found.second_opinion.said


def test_what_would_be_held_is_mended_first_and_no_probe_reads_more_than_the_policy_lets(ferries: Path) -> None:
    """By the plan: a draft without its period reads the table from end to end."""
    held = asked(ferries, DOUBTFUL, Scripted(RIGHT), "in-doubt", approval=Approval(rows=100))
    assert (held.state, len(held.attempts)) == ("held", 2)
    searched = "SELECT COUNT(*) AS n FROM sailing WHERE id > 0 AND status = 'X'"
    later = "SELECT COUNT(*) AS n FROM sailing WHERE scheduled_departure >= '2026-08-01' AND status = 'X'"
    for most, explained in ((None, True), (5000, False)):
        limits = demo_policy(plan_rows=most).limits
        with source_with(ferries, Scripted(searched)) as source:
            found = ask(with_second(source, Scripted(later), limits=limits), QUESTION)
        assert found.second_opinion is not None
        assert found.second_opinion.agrees is False, found.second_opinion.said
        assert ("without that the two agree" in found.second_opinion.said) is explained, found.second_opinion.said


def test_left_out_it_is_in_doubt_where_another_model_has_that_duty(ferries: Path) -> None:
    for first, second, calls in ((RIGHT, Scripted(RIGHT), 1), (DOUBTFUL, Scripted(RIGHT), 3), (DOUBTFUL, None, 2)):
        assert asked(ferries, first, second, None).usage.calls == calls


def test_a_difference_is_a_caveat_with_both(ferries: Path) -> None:
    found = asked(ferries, DOUBTFUL, Scripted(RIGHT))
    assert found.answer is not None
    assert found.second_opinion is not None
    assert found.second_opinion.table is not None
    (said,) = [c.message for c in found.answer.caveats if c.rule == "second-differs"]
    assert f"12 instead of {found.answer.table.rows[0][0]}" in said
    assert found.second_opinion.table.rows == [[12]]
    assert "'X'" in str(found.second_opinion.read_back)
    # A second draft that is itself doubtful says so.
    turned = asked(ferries, RIGHT, Scripted(DOUBTFUL))
    assert turned.answer is not None
    assert "It is doubtful itself" in turned.answer.caveats[0].message


@pytest.mark.parametrize(("when", "first", "calls"), [
    ("never", DOUBTFUL, 2), ("in-doubt", RIGHT, 1), ("in-doubt", DOUBTFUL, 3), ("always", RIGHT, 2),
])  # fmt: skip
def test_it_is_asked_for_when_the_policy_says(ferries: Path, when: str, first: str, calls: int) -> None:
    assert asked(ferries, first, Scripted(RIGHT), when).usage.calls == calls


@pytest.mark.parametrize(("second", "said"), [
    (Silent(""), "nobody answers"),
    (Replies('{"cannot": "not-in-data", "why": "no"}'), "No second draft"),
    (Replies("nonsense"), "No second draft"),
    (Scripted("DELETE FROM sailing"), "may not run"),
    (Scripted("SELECT COUNT(*) FROM sailing WHERE json_extract(status, '$[') = 1"), "malformed JSON"),
])  # fmt: skip
def test_whatever_goes_wrong_with_it_leaves_the_answer_as_it_is(
    ferries: Path, second: LanguageModel, said: str
) -> None:
    found = asked(ferries, RIGHT, second)
    assert found.answer is not None
    assert found.answer.table.rows == [[12]]
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, found.trust) == (None, "clear")
    assert said in found.second_opinion.said


def test_the_same_model_is_asked_in_other_words_and_without_the_first_draft(ferries: Path) -> None:
    model = Replies(json.dumps({"sql": RIGHT, "explanation": ""}))
    with source_with(ferries, model) as source:
        inquiry = ask(with_second(source, None), QUESTION)
    first, second = model.asked
    assert "## Examples" in first[1]["content"]
    assert "## Examples" not in second[1]["content"]
    assert "COUNT(*)" not in second[1]["content"].split("## Question")[1]
    assert inquiry.second_opinion is not None
    assert inquiry.second_opinion.agrees


def test_it_is_on_record_and_nothing_is_run_that_would_be_held(ferries: Path) -> None:
    recorder = Recorder()
    with source_with(ferries, Scripted(RIGHT)) as source:
        inquiry = Inquiry(id="t", state="working", source="ferries", question=QUESTION, asked_by="A", asked_at=NOW)
        conduct(inquiry, with_second(source, Scripted(OTHERWISE)), recorder, NOW)
    told = [(e.kind, e.facts.get("duty")) for e in recorder.events]
    assert told[-6:] == [
        ("ruled", "second opinion"), ("found", "second opinion"), ("planned", "second opinion"),
        ("ruled", "second opinion"), ("ran", "second opinion"), ("compared", None),
    ]  # fmt: skip
    assert sum(kind == "ran" for kind, _ in told) == 2
    held = asked(ferries, RIGHT, Scripted("SELECT COUNT(*) FROM incident"), approval=Approval(tables=("incident",)))
    assert held.second_opinion is not None
    assert "would have to be released" in held.second_opinion.said


def test_beyond_its_tokens_an_inquiry_asks_no_model_any_more(ferries: Path) -> None:
    class Talker(Replies):
        def complete(self, *given: Any, **named: Any) -> Completion:
            return replace(super().complete(*given, **named), prompt_tokens=900, completion_tokens=100)

    limits = demo_policy().limits.model_copy(update={"inquiry_tokens": 1000})
    for sql, outcome in ((DOUBTFUL, "answered"), ("SELECT nothing FROM sailing", "failed")):
        talker = Talker(json.dumps({"sql": sql, "explanation": ""}))
        with source_with(ferries, talker) as source:
            found = ask(with_second(source, Scripted(RIGHT), limits=limits), QUESTION)
        assert (found.outcome, found.usage.calls) == (outcome, 1)
        if found.second_opinion is not None:
            assert "more tokens than it may" in found.second_opinion.said
        else:
            assert found.problem is not None
            assert found.problem.policy_line == "limits.inquiry_tokens"


def test_a_silenced_finding_does_not_count_and_the_answer_says_so(ferries: Path) -> None:
    with source_with(ferries, Scripted(DOUBTFUL)) as source:
        inquiry = Inquiry(
            id="t", state="working", source="ferries", question=QUESTION, asked_by="A", asked_at=NOW,
            silenced=["period-left-out", "multiplied"],
        )  # fmt: skip
        conduct(inquiry, source, Unwatched(), NOW, Person("A"))
    assert inquiry.answer is not None
    assert len(inquiry.attempts) == 1
    (caveat,) = inquiry.answer.caveats
    assert (caveat.rule, inquiry.trust) == ("silenced", "caution")
    assert "period-left-out, multiplied" in caveat.message
    assert "2026" in caveat.message


OPEN = "How many were cancelled in August 2026?"


def test_two_readings_are_asked_back_before_a_model_is_asked_or_told_where_the_policy_wants_it(ferries: Path) -> None:
    with source_with(ferries, Scripted(RIGHT)) as source:
        back = ask(source, OPEN)
        told = ask(replace(source, describer=Describer(
            demo_policy().model_copy(update={"review": ReviewTerms(two_readings="tell")}), source.notes,
        )), OPEN)  # fmt: skip
        chosen = Inquiry(
            id="t", state="working", source="ferries", question=OPEN, asked_by="A", asked_at=NOW, choice="sailing",
            standalone_question=f"{OPEN} (meaning: sailing)",
        )  # fmt: skip
        conduct(chosen, source, Unwatched(), NOW)
        other = replace(chosen, standalone_question=f"{OPEN} (meaning: booking)", attempts=[])
        conduct(other, source, Unwatched(), NOW)
    assert (back.outcome, back.answer, back.usage.calls) == ("clarify", None, 0)
    assert back.clarify is not None
    assert [c.id for c in back.clarify.choices] == ["booking", "sailing"]
    assert rules(told) == ["two-readings"]
    assert (chosen.outcome, chosen.trust) == ("answered", "clear")
    # The reading is held against the draft like every other word: this one counts sailings.
    assert "left-out" in rules(other)


def test_a_model_that_cannot_decide_may_ask_back_once(ferries: Path) -> None:
    reply = json.dumps({"ask": "By which time?", "readings": ["when booked", "when sailed", "when booked"]})
    with source_with(ferries, Replies(reply)) as source:
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


def test_events_of_asking_back(ferries: Path) -> None:
    recorder = Recorder()
    with source_with(ferries, Scripted(RIGHT)) as source:
        ask(source, OPEN, recorder)
    assert [e.kind for e in recorder.events] == ["asked-back"]
    assert recorder.events[0].facts["readings"] == [
        "A booking whose status is cancelled",
        "A sailing whose status is cancelled",
    ]


@pytest.mark.parametrize(("question", "draft", "says"), [
    # Weather is read every three hours: a day of sailings meets it eight times.
    ("Total distance of sailings in July 2026 with the wind of the day",
     "SELECT SUM(s.id) AS n FROM sailing s JOIN weather_reading w ON date(w.measured_at) = date(s.scheduled_departure) "
     "WHERE s.scheduled_departure >= '2026-07-01' AND s.scheduled_departure < '2026-07-03'", "counted more than once"),
    ("Total value of bookings in July 2026",
     "SELECT SUM(b.total_cents) AS cents FROM booking b JOIN incident i ON i.id = b.customer_id "
     "WHERE b.booked_at >= '2026-07-01' AND b.booked_at < '2026-08-01'", "alone the figure"),
])  # fmt: skip
def test_a_total_that_a_join_bends_is_seen_in_the_data(ferries: Path, question: str, draft: str, says: str) -> None:
    with source_with(ferries, Scripted(draft)) as source:
        found = ask(source, question)
    assert found.answer is not None
    said = {c.rule: c.message for c in found.answer.caveats}
    assert says in said.get("total-differs", ""), said
