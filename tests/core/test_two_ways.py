"""Two ways to the same figure: what agreement settles and what not, what differs, and what is said of it."""

from __future__ import annotations

import shutil
import sqlite3
from pathlib import Path
from typing import Any

import pytest
from trust.measure import source_with

from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.policy import Approval
from harquel.core.llm.model import Completion, LanguageModel, Message
from harquel.testing.scripted import Scripted
from harquel.testing.sources import ask, demo_policy
from tests.core.conftest import Make
from tests.core.test_second_opinion import DOUBTFUL, OTHERWISE, QUESTION, RIGHT, WRONG, rules, with_second


def asked(make: Make, first: str, second: LanguageModel | None, when: Any = "always", **policy: Any) -> Inquiry:
    return ask(with_second(make(Scripted(first)), second, when, **policy), QUESTION)


class Told(Scripted):
    """Keeps what it was told."""

    def __init__(self, *drafts: str) -> None:
        super().__init__(*drafts)
        self.told: list[list[Message]] = []

    def complete(self, messages: list[Message], **more: Any) -> Completion:
        self.told.append(list(messages))
        return super().complete(messages, **more)


DROPS = "SELECT SUM(DISTINCT amount_eur) AS eur FROM payment"
"""What may have been meant so."""


def test_two_ways_that_share_nothing_outweigh_what_may_have_been_meant_so(make: Make) -> None:
    found = asked(make, RIGHT, Scripted(OTHERWISE))
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, found.trust) == (True, "clear")
    assert found.second_opinion.table is None
    assert found.usage.calls == 2
    # Both take equal amounts once: nothing goes back, and all of it is on record.
    doubted = asked(make, DROPS, Scripted("SELECT SUM(x) FROM (SELECT DISTINCT amount_eur AS x FROM payment) AS q"))
    assert doubted.second_opinion is not None
    assert (doubted.second_opinion.agrees, doubted.trust, doubted.usage.calls) == (True, "clear", 2)
    assert doubted.second_opinion.said.endswith("settled by that: distinct-drops")
    (attempt,) = doubted.attempts
    assert ("distinct-drops", "error") in {(f.rule, f.severity) for f in attempt.findings}


RANKED = "SELECT h.name, COUNT(*) AS n FROM customer c JOIN harbour h ON h.id = c.home_harbour GROUP BY h.name"


@pytest.mark.parametrize(("first", "second", "left"), [
    (f"{RANKED} ORDER BY n DESC", f"{RANKED} ORDER BY n DESC, h.name", []),
    # Only names are vouched for: what the query counts beside them is not.
    (f"{RANKED.replace('COUNT(*)', 'COUNT(*) + 1')} ORDER BY n DESC",
     f"SELECT name FROM ({RANKED}) AS q ORDER BY n DESC", ["unconfirmed"]),
])  # fmt: skip
def test_agreement_settles_only_what_it_has_compared(make: Make, first: str, second: str, left: list[str]) -> None:
    source = make(Scripted(first))
    found = ask(with_second(source, Scripted(second)), "Which harbours have the most customers, most first?")
    assert found.second_opinion is not None
    assert found.second_opinion.agrees is True, found.second_opinion.said
    assert rules(found) == left


def test_a_figure_that_was_made_beside_the_others_is_confirmed_by_nobody(make: Make) -> None:
    """What a row holds is as it is stored; what is computed may be wrong."""
    for shown, left in (("name, passenger_capacity", []), ("name, passenger_capacity * 2 AS twice", ["unconfirmed"])):
        source = with_second(make(Scripted(f"SELECT {shown} FROM vessel")), Scripted("SELECT name FROM vessel"))
        found = ask(source, "Which vessels are there?")
        assert rules(found) == left, shown


def test_the_same_rows_the_other_way_round_are_another_answer(make: Make) -> None:
    question = "Which harbours have the most customers, most first?"
    for first, second, agrees in (("n", "n DESC", False), ("n DESC", "n DESC", True), ("h.name", "n DESC", True)):
        source = with_second(make(Scripted(f"{RANKED} ORDER BY {first}")), Scripted(f"{RANKED} ORDER BY {second}"))
        found = ask(source, question)
        assert found.second_opinion is not None
        assert found.second_opinion.agrees is agrees, (first, found.second_opinion.said)


def test_a_repaired_draft_without_a_doubt_is_held_against_the_second_way_too(make: Make) -> None:
    first = Told(WRONG, RIGHT.replace("'X'", "'D'"))
    source = make(first)
    found = ask(with_second(source, Scripted(RIGHT), "in-doubt"), QUESTION)
    assert found.second_opinion is not None
    assert (found.trust, found.second_opinion.agrees) == ("caution", False)
    assert "second-differs" in rules(found)


def test_what_is_wrong_whatever_was_asked_outlives_agreement(make: Make) -> None:
    """Multiplied rows that two drafts share are as wrong as those of one."""
    twice = "SELECT SUM(b.total_cents) AS cents FROM booking b JOIN payment p ON p.booking_id = b.id"
    found = asked(make, twice, Scripted(twice.replace("SUM(b.total_cents)", "SUM(b.total_cents + 0)")))
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, found.trust) == (True, "caution")
    assert rules(found) == ["multiplied"]


def test_a_model_that_repeats_itself_proves_nothing(make: Make) -> None:
    found = asked(make, WRONG, None)
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, found.second_opinion.said) == (True, "It is the same statement")
    assert (found.trust, rules(found)) == ("caution", ["unconfirmed"])


def test_another_figure_goes_back_once_and_the_draft_that_agrees_answers(make: Make) -> None:
    """In figures only where values may leave for a model."""
    for values, told in (("all", "12 instead of 14"), ("none", "")):
        first = Told(RIGHT.replace("'X'", "'D'"), OTHERWISE)
        source = make(first)
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
    make: Make, first: str, second: str, agrees: bool
) -> None:
    """By a query of ours: not by the look of a text, nor where several rows share a label."""
    source = make(Scripted(BY_HARBOUR.format(first, first)))
    other = Scripted(BY_HARBOUR.format(second, second))
    found = ask(with_second(source, other), "How many customers has each harbour?")
    assert found.second_opinion is not None
    assert found.second_opinion.agrees is agrees, found.second_opinion.said


IN_CENTS = "SELECT kind, SUM(amount_cents){} AS {} FROM booking_item GROUP BY kind"


@pytest.mark.parametrize(("first", "second", "agrees"), [
    (("", "cents"), (" / 100.0", "eur"), True), ((" / 100.0", "eur"), ("", "total_cents"), True),
    ((" / 100.0", "total"), ("", "cents"), False), (("", "total"), (" / 100.0", "eur"), False),
    (("", "eur"), (" / 100.0", "eur"), False), ((" / 10.0", "cents"), (" / 1000.0", "eur"), False),
    (("", "cents"), (" / 10.0", "eur"), False),
])  # fmt: skip
def test_what_says_that_it_is_in_cents_is_the_same_in_euros(
    make: Make, first: tuple[str, str], second: tuple[str, str], agrees: bool
) -> None:
    """Where name, statement and notes say the same unit: cents under a bare name are not what was asked for."""
    found = ask(with_second(make(Scripted(IN_CENTS.format(*first))), Scripted(IN_CENTS.format(*second))), "Sales?")
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
    make: Make, first: str, second: str, why: str
) -> None:
    source = make(Scripted(first))
    found = ask(with_second(source, Scripted(second)), "How many confirmed bookings are there?")
    assert found.second_opinion is not None
    assert found.second_opinion.agrees is False
    assert " instead of " in found.second_opinion.said
    assert (why in found.second_opinion.said) if why else ("without that" not in found.second_opinion.said)


def test_what_is_told_of_the_second_way_is_about_the_draft_that_answers(make: Make) -> None:
    """The earlier draft is the better one: what is said beside it is what was said of it."""
    worse = f"{WRONG} AND delay_reason = 'nobody wrote this' AND vessel_id = 1"
    source = make(Told(WRONG, worse))
    found = ask(with_second(source, Scripted(RIGHT), "in-doubt"), QUESTION)
    assert found.answer is not None
    assert found.second_opinion is not None
    assert "vessel_id" not in found.answer.sql
    assert f"12 instead of {found.answer.table.rows[0][0]}" in found.second_opinion.said


def test_what_would_be_held_is_mended_first_and_no_probe_reads_more_than_the_policy_lets(make: Make) -> None:
    """A draft that is doubtful whatever was asked goes back before anybody is asked to release it."""
    held = asked(make, DOUBTFUL, Scripted(RIGHT), "in-doubt", approval=Approval(always=True))
    assert (held.state, len(held.attempts)) == ("held", 2)
    searched = "SELECT COUNT(*) AS n FROM sailing WHERE id > 0 AND status = 'X'"
    later = "SELECT COUNT(*) AS n FROM sailing WHERE scheduled_departure >= '2026-08-01' AND status = 'X'"
    for most, explained in ((None, True), (5000, False)):
        limits = demo_policy(plan_rows=most).limits
        source = make(Scripted(searched))
        found = ask(with_second(source, Scripted(later), limits=limits), QUESTION)
        assert found.second_opinion is not None
        assert found.second_opinion.agrees is False, found.second_opinion.said
        assert ("without that the two agree" in found.second_opinion.said) is explained, found.second_opinion.said


def test_left_out_it_is_in_doubt_where_another_model_has_that_duty(make: Make) -> None:
    for first, second, calls in ((RIGHT, Scripted(RIGHT), 2), (WRONG, Scripted(RIGHT), 3), (WRONG, None, 1)):
        assert asked(make, first, second, None).usage.calls == calls
