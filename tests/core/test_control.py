"""The question read apart from the draft, and our own statement from that beside it: what that settles and says."""

from __future__ import annotations

import json
from dataclasses import replace
from threading import Barrier
from typing import Any

import pytest

from harquel.core.briefing import Describer
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.policy import Approval, ReviewTerms
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import Completion, LanguageModel, ModelProfile
from harquel.testing.scripted import Meets, RunsMeet, Scripted
from harquel.testing.sources import Recorder, ask, demo_policy
from tests.core.conftest import Make
from tests.core.test_reading import READING
from tests.core.test_second_opinion import DOUBTFUL, QUESTION, RIGHT, WRONG, Replies, Silent, rules


class Reader(Replies):
    """Another model than the one that drafts."""

    def __init__(self, *texts: str) -> None:
        super().__init__(*texts)
        self.profile = ModelProfile("http://reader.example", "reader")


class Broken(Scripted):
    def complete(self, *_: Any, **__: Any) -> Completion:
        raise ZeroDivisionError


def reading(**changed: Any) -> str:
    """One that accounts for each word of the question, whatever it does with them."""
    said = {"words": "How many sailings … cancelled … in August 2026"} if changed else {}
    return json.dumps({**READING, **said, **changed})


def read(source: Source, reader: LanguageModel, when: str = "always", **more: Any) -> Source:
    policy = demo_policy().model_copy(update={"review": ReviewTerms(control=when)})  # type: ignore[arg-type]
    return replace(source, describer=Describer(policy, source.notes), reader=reader, **more)


def asked(make: Make, draft: str, *readings: str, when: str = "always", **more: Any) -> Inquiry:
    return ask(read(make(Scripted(draft)), Reader(*readings), when, **more), QUESTION)


def test_two_ways_that_give_the_same_are_clear_and_how_it_was_understood_is_kept(make: Make) -> None:
    found = asked(make, RIGHT, reading())
    opinion = found.second_opinion
    assert opinion is not None
    assert (opinion.agrees, opinion.draft, found.trust, found.usage.calls) == (True, None, "clear", 2)
    assert opinion.reading == READING
    assert opinion.rewritten_sql is not None
    assert opinion.rewritten_sql.startswith("SELECT COUNT(*) AS count FROM sailing AS t WHERE t.status = 'X'")


def test_a_slip_is_found_and_mended(make: Make) -> None:
    slipped = RIGHT.replace("'X'", "'D'")
    source = read(make(Scripted(slipped, RIGHT)), Reader(reading()))
    mended = ask(source, QUESTION)
    assert (mended.trust, len(mended.attempts), rules(mended)) == ("clear", 2, [])
    stubborn = asked(make, slipped, reading())
    assert stubborn.trust == "caution"
    assert stubborn.answer is not None
    (said,) = [c.message for c in stubborn.answer.caveats if c.rule == "second-differs"]
    assert said.startswith("Our own query, built from the question as reader reads it, gives another result: 12 inst")


def test_read_by_the_model_that_drafts_it_counts_as_read_by_any_other(make: Make) -> None:
    """What it said of the question is put into SQL by us, with the notes; it repeats no statement of its own."""
    for draft, given, trust, agrees in (
        (WRONG, reading(during=[]), "clear", True), (RIGHT, reading(during=[]), "caution", False),
        (RIGHT, reading(), "clear", True),
    ):  # fmt: skip
        found = ask(read(make(Scripted(draft)), Replies(given)), QUESTION)
        assert found.second_opinion is not None
        assert (found.trust, found.second_opinion.agrees) == (trust, agrees)


def test_what_is_wrong_whatever_was_asked_outlives_a_control_that_says_the_same(make: Make) -> None:
    """The clock of the database says something else tomorrow; a control has none, nor a row that it repeats."""
    clock = RIGHT.replace("'2026-09-01'", "'2026-09-01' AND scheduled_departure < date('now', '+90 years')")
    found = asked(make, clock, reading())
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, found.trust, rules(found)) == (True, "caution", ["clock"])
    places = {"rows": "sailing", "figures": [{"figure": "sum", "of": "vessel.passenger_capacity"}],
              "words": "Places of all sailings"}  # fmt: skip
    summed = "SELECT SUM(v.passenger_capacity) AS n FROM sailing s JOIN vessel v ON v.id = s.vessel_id"
    found = ask(read(make(Scripted(summed)), Reader(json.dumps(places))), "Places of all sailings")
    assert found.second_opinion is not None
    assert (found.trust, found.second_opinion.said.rpartition(": ")[2]) == ("clear", "multiplied")


SIZES = ("SELECT h.name, {} AS n FROM harbour h JOIN berth b ON b.harbour_id = h.id GROUP BY h.name "
         "HAVING COUNT(*) > 2")  # fmt: skip
MANY = {"rows": "harbour", "show": ["harbour.name"], "only": [{"has": "berth", "at_least": 3}]}
ORDERS = (
    "SELECT {} FROM maintenance_order WHERE closed_on IS NOT NULL AND julianday(closed_on) - julianday(opened_on) > 60"
)
LONG = {"rows": "maintenance_order", "show": ["maintenance_order.id"], "only": [
    {"column": "closed_on", "is": "empty", "not": True},
    {"worth": {"of": "closed_on", "since": "opened_on"}, "is": "more", "values": [60]}]}  # fmt: skip


@pytest.mark.parametrize(("given", "draft", "confirmed"), [
    (MANY, SIZES.format("COUNT(*)"), True), (MANY, SIZES.format("COUNT(*) + 1"), False),
    (MANY, SIZES.format("MAX(b.max_length_m)"), False),
    (LONG, ORDERS.format("id, julianday(closed_on) - julianday(opened_on) AS days"), True),
    (LONG, ORDERS.format("id, julianday('2026-09-14') - julianday(opened_on) AS days"), False),
    # What rows hold as it is stored needs nobody's word, by a star neither.
    (LONG, ORDERS.format("*"), True), (LONG, ORDERS.format("id, cost_cents"), True),
    (LONG, ORDERS.format("id, cost_cents * 2 AS cents"), False),
])  # fmt: skip
def test_figures_by_which_rows_were_chosen_are_confirmed_and_others_made_beside_are_not(
    make: Make, given: dict[str, Any], draft: str, confirmed: bool
) -> None:
    question = "Which of them are many or long?"
    reader = Reader(json.dumps({**given, "words": "Which of them are many or long"}))
    found = ask(read(make(Scripted(draft)), reader), question)
    assert found.second_opinion is not None
    assert found.second_opinion.agrees, found.second_opinion.said
    assert ("unconfirmed" not in rules(found)) is confirmed, rules(found)


MARCH_ON = {"column": "booked_at", "from": "2026-03-01", "until": "2026-08-01", "words": "from March to July 2026"}
BOOKINGS = {"rows": "booking", "figures": [{"figure": "count"}], "during": [MARCH_ON]}
MONTHLY = {**BOOKINGS, "per": [{"column": "booked_at", "unit": "month"}]}
COUNTED = (
    "SELECT {1}COUNT(*) AS n FROM booking b JOIN sailing s ON s.id = b.sailing_id "
    "WHERE {0} >= '2026-03-01' AND {0} < '2026-08-01'{2}"
)
BY_DEPARTURE = "The two agree where it is meant otherwise: by scheduled departure of sailing"


@pytest.mark.parametrize(("given", "by", "monthly", "said"), [
    (BOOKINGS, "s.scheduled_departure", False, BY_DEPARTURE), (MONTHLY, "s.scheduled_departure", True, BY_DEPARTURE),
    ({**BOOKINGS, "only": [{"column": "status", "values": ["no_show"], "words": "missed"}]},
     "b.status = 'cancelled' AND b.booked_at", False, "The two agree where it is meant otherwise: cancelled"),
    # By no other time that the catalog offers; another time and another code at once are two things.
    (BOOKINGS, "s.actual_arrival", False, ""),
    ({**BOOKINGS, "only": [{"column": "status", "values": ["no_show"], "words": "missed"}]},
     "b.status = 'cancelled' AND s.scheduled_departure", False, ""),
])  # fmt: skip
def test_what_could_be_meant_instead_is_tried_before_two_ways_are_said_to_differ(
    make: Make, given: dict[str, Any], by: str, monthly: bool, said: str
) -> None:
    question = "Bookings missed from March to July 2026"
    shown = (f"strftime('%Y-%m', {by}) AS month, ", " GROUP BY 1") if monthly else ("", "")
    reader = Reader(json.dumps({"words": "Bookings missed", **given}))
    found = ask(read(make(Scripted(COUNTED.format(by, *shown))), reader), question)
    assert found.second_opinion is not None
    assert (found.trust, found.second_opinion.agrees) == ("caution", False)
    assert ("agree where" in found.second_opinion.said, said in found.second_opinion.said) == (bool(said), True)


def test_a_denial_is_said_by_the_condition_that_it_turns(make: Make) -> None:
    """What both ways overlook would be settled by saying it twice."""
    web = "SELECT COUNT(*) AS n FROM booking WHERE channel = 'web'"
    only = {"column": "channel", "values": ["web"]}
    counted = {"rows": "booking", "figures": [{"figure": "count"}]}
    said = "How many bookings were not made by web"
    for given, agrees in (
        ({**counted, "only": [only], "words": said}, None),
        ({**counted, "only": [{**only, "not": True, "words": "not made by web"}], "words": said}, False),
    ):
        found = ask(read(make(Scripted(web)), Reader(json.dumps(given))), f"{said}?")
        assert found.second_opinion is not None
        assert (found.second_opinion.agrees, found.trust) == (agrees, "caution"), found.second_opinion.said


def test_what_is_worked_out_for_each_of_a_list_must_be_there(make: Make) -> None:
    left = {"of": "vessel.passenger_capacity", "less": "vessel.car_capacity"}
    listed = {"rows": "vessel", "show": ["vessel.name", left], "words": "Vessels and their places"}
    for shown, agrees in (("name", False), ("passenger_capacity - car_capacity AS places, name, id", True)):
        source = read(make(Scripted(f"SELECT {shown} FROM vessel")), Reader(json.dumps(listed)))
        found = ask(source, "Vessels and their places")
        assert found.second_opinion is not None
        assert found.second_opinion.agrees is agrees, (shown, found.second_opinion.said)


def test_the_same_rows_in_another_order_than_asked_for_are_a_difference(make: Make) -> None:
    counted = "SELECT category, COUNT(*) AS n FROM incident GROUP BY category ORDER BY "
    asked_for = {"rows": "incident", "figures": [{"figure": "count"}], "per": [{"column": "category"}],
                 "order": [{"by": 0, "descending": True}], "words": "Incidents by category most first"}  # fmt: skip
    for order, agrees in (("n DESC", True), ("n DESC, category DESC", True), ("n", False), ("category", False)):
        found = ask(read(make(Scripted(counted + order)), Reader(json.dumps(asked_for))), asked_for["words"])  # type: ignore[arg-type]
        assert found.second_opinion is not None
        assert found.second_opinion.agrees is agrees, (order, found.second_opinion.said)


def test_a_figure_that_was_asked_for_and_is_missing_is_a_difference(make: Make) -> None:
    months = "SELECT STRFTIME('%Y-%m', paid_at) AS month, SUM(amount_eur) AS eur{} FROM payment GROUP BY 1"
    whole = ", SUM(SUM(amount_eur)) OVER (ORDER BY STRFTIME('%Y-%m', paid_at)) AS so_far"
    asked_for = {"rows": "payment", "figures": [{"figure": "sum", "of": "amount_eur"}, {"figure": "running",
                 "between": [0, 0]}], "per": [{"column": "paid_at", "unit": "month"}],
                 "words": "Running total of payments over the months"}  # fmt: skip
    for more, agrees in (("", False), (whole, True)):
        source = read(make(Scripted(months.format(more))), Reader(json.dumps(asked_for)))
        found = ask(source, "Running total of payments over the months")
        assert found.second_opinion is not None
        assert found.second_opinion.agrees is agrees, found.second_opinion.said


@pytest.mark.parametrize("wrong", [
    "I think they want the sailings.", reading(rows="ships"), reading(open=["on rainy days"]),
    reading(only=[{"column": "sailing.status", "values": ["X"], "words": "not there"}]),
])  # fmt: skip
def test_a_reading_that_cannot_be_used_goes_back_once_and_confirms_nothing(make: Make, wrong: str) -> None:
    mended = asked(make, RIGHT, wrong, reading())
    assert mended.second_opinion is not None
    assert (mended.second_opinion.agrees, mended.usage.calls) == (True, 3)
    given_up = asked(make, RIGHT, wrong)
    assert given_up.second_opinion is not None
    assert (given_up.second_opinion.agrees, rules(given_up), given_up.usage.calls) == (None, ["unconfirmed"], 3)
    assert given_up.second_opinion.said.startswith("No query of our own can be built from how it reads the question: ")


def test_another_draft_takes_its_place_where_none_can_be_built(make: Make) -> None:
    found = asked(make, WRONG, reading(open=["rain"]), second=Scripted(WRONG.replace("COUNT(*)", "COUNT(id)")))
    opinion = found.second_opinion
    assert opinion is not None
    assert (opinion.agrees, opinion.reading, found.trust) == (True, None, "clear")
    assert opinion.draft is not None


def test_who_reads_sees_neither_draft_nor_example(make: Make) -> None:
    reader = Reader(reading())
    ask(read(make(Scripted(RIGHT)), reader), QUESTION)
    ((role, given),) = reader.asked
    assert "You write no SQL" in role["content"]
    assert "## Schema" in given["content"]
    for seen in ("## Examples", "SELECT COUNT", "SQL:"):
        assert seen not in given["content"]


@pytest.mark.parametrize(("when", "draft", "calls"), [
    ("never", RIGHT, 1), ("in-doubt", RIGHT, 1), ("in-doubt", DOUBTFUL, 3), ("always", RIGHT, 2),
])  # fmt: skip
def test_it_is_read_when_the_policy_says(make: Make, when: str, draft: str, calls: int) -> None:
    assert asked(make, draft, reading(), when=when).usage.calls == calls


def test_a_reader_that_is_gone_ends_nothing_and_every_step_is_told(make: Make) -> None:
    found = ask(read(make(Scripted(RIGHT)), Silent("")), QUESTION)
    assert found.second_opinion is not None
    assert (found.outcome, rules(found), found.second_opinion.said) == ("answered", ["unconfirmed"], "nobody answers")
    recorder = Recorder()
    ask(read(make(Scripted(RIGHT)), Reader(reading())), QUESTION, recorder)
    told = [e.kind for e in recorder.events if getattr(e.what, "duty", "")]
    assert told == ["prompted", "replied", "ruled", "found", "planned", "ruled", "ran"]


def test_the_question_is_read_while_the_first_draft_is_written(make: Make) -> None:
    barrier = Barrier(2)
    source = make(Meets(barrier, Scripted(RIGHT)))
    recorder = Recorder()
    found = ask(read(source, Meets(barrier, Reader(reading()))), QUESTION, recorder)
    assert found.second_opinion is not None
    assert (found.trust, found.second_opinion.agrees, found.usage.calls) == ("clear", True, 2)
    told = [(e.kind, e.what.duty) for e in recorder.events if e.kind in ("prompted", "replied")]
    assert told == [("prompted", ""), ("prompted", "control"), ("replied", "control"), ("replied", "")]


def test_our_own_statement_runs_while_the_draft_runs(make: Make) -> None:
    source = read(make(Scripted(RIGHT.replace("COUNT(*)", "COUNT(id)"))), Reader(reading()))
    recorder = Recorder()
    found = ask(replace(source, sandbox=RunsMeet(Barrier(2), source.sandbox)), QUESTION, recorder)
    assert found.second_opinion is not None
    assert (found.trust, found.second_opinion.agrees) == ("clear", True)
    told = [(e.kind, e.what.duty) for e in recorder.events if e.kind in ("planned", "ran")]
    assert told == [("planned", ""), ("planned", "control"), ("ran", ""), ("ran", "control")]


def test_a_control_runs_once_whatever_becomes_of_the_drafts_beside_it(make: Make) -> None:
    # Turned down by the database, refused by its plan, and mended.
    for broken, runs in (
        ("SELECT ABS(-9223372036854775807 - 1) AS n FROM sailing", 3),
        ("SELECT COUNT(*) AS n FROM weather_reading a CROSS JOIN weather_reading b", 2),
    ):
        source = read(make(Scripted(broken, RIGHT.replace("COUNT(*)", "COUNT(id)"))), Reader(reading()))
        counting = RunsMeet(None, source.sandbox)
        found = ask(replace(source, sandbox=counting), QUESTION)
        assert found.second_opinion is not None
        assert (found.trust, len(found.attempts), found.second_opinion.agrees) == ("clear", 2, True), broken
        assert counting.runs == runs


def test_of_two_that_are_asked_at_once_each_may_fail_alone(make: Make) -> None:
    gone = ask(read(make(Silent("")), Reader(reading())), QUESTION)
    assert (gone.outcome, gone.usage.calls) == ("failed", 1)
    alone = ask(read(make(Scripted(RIGHT)), Silent("")), QUESTION)
    assert alone.second_opinion is not None
    assert (alone.outcome, rules(alone), alone.usage.calls) == ("answered", ["unconfirmed"], 1)
    # Nothing that is no fault of a model is taken for one.
    with pytest.raises(ZeroDivisionError):
        ask(read(make(Scripted(RIGHT)), Broken("")), QUESTION)


BY_DEPARTURE = {
    "rows": "booking",
    "figures": [{"figure": "count"}],
    "named": "by departure",
    "during": [{"column": "sailing.scheduled_departure", "from": "2026-08-01", "until": "2026-09-01"}],
}


def ambiguous(make: Make, other: dict[str, Any], choice: str | None = None, ways: str = "ask") -> Inquiry:
    """Bookings of August: by when they were booked, or as another reading has it."""
    question = "How many bookings in August 2026?" + (" by departure" if choice else "")
    meant = {"rows": "booking", "figures": [{"figure": "count"}], "named": "by booking date", "others": [other],
             "during": [{"from": "2026-08-01", "until": "2026-09-01"}], "words": question.rstrip("?")}  # fmt: skip
    draft = "SELECT COUNT(*) AS n FROM booking WHERE booked_at >= '2026-08-01' AND booked_at < '2026-09-01'"
    source = read(make(Scripted(draft)), Reader(json.dumps(meant)))
    terms = source.policy.model_copy(update={"review": ReviewTerms(control="always", two_readings=ways)})  # type: ignore[arg-type]
    source = replace(source, describer=Describer(terms, source.notes))
    return ask(source, question, choice=choice)


def test_what_can_be_meant_in_two_ways_is_asked_back_where_they_come_to_different_results(make: Make) -> None:
    found = ambiguous(make, BY_DEPARTURE)
    assert (found.outcome, found.answer, found.second_opinion) == ("clarify", None, None)
    assert found.clarify is not None
    assert [(c.id, c.label.partition(":")[0], c.reading) for c in found.clarify.choices] == [
        ("meant-1", "by booking date", "by booking date"), ("meant-2", "by departure", "by departure"),
    ]  # fmt: skip
    figures = {c.label.partition(": ")[2] for c in found.clarify.choices}
    assert len(figures) == 2
    assert all(f.replace(",", "").isdigit() for f in figures)
    # Where it is only told, where it was chosen, where both come to the same, and where the other cannot be worked out.
    told = ambiguous(make, BY_DEPARTURE, ways="tell")
    assert (told.outcome, told.trust, "two-readings" in rules(told)) == ("answered", "caution", True)
    assert ambiguous(make, BY_DEPARTURE, choice="meant-2").outcome == "answered"
    same = {"rows": "booking", "figures": [{"figure": "count"}], "named": "while it was August",
            "only": [{"column": "booked_at", "is": "between", "values": ["2026-08-01", "2026-08-31"]}]}  # fmt: skip
    for other in (same, {**BY_DEPARTURE, "open": ["rain"]}, {**BY_DEPARTURE, "rows": "ships"}):
        assert ambiguous(make, other).outcome == "answered"


def test_a_control_that_may_not_run_reads_too_much_or_is_cut_is_said_and_confirms_nothing(make: Make) -> None:
    """It is bounded like every statement: by the plan, by approval, and by the rows that are taken."""
    words = {"words": "How many sailings … cancelled … in August 2026"}
    wide = json.dumps({"rows": "weather_reading", "figures": [{"figure": "count"}], **words})
    listed = json.dumps({"rows": "booking", "show": ["booking.id"], **words})
    base = demo_policy()
    for said, given, policy in (
        ("at most 20,000 are allowed", wide, {"limits": base.limits.model_copy(update={"plan_rows": 20_000})}),
        ("would have to be released", wide, {"approval": Approval(tables=("weather_reading",))}),
        ("A result was cut", listed, {}),
    ):
        source = read(make(Scripted(RIGHT)), Reader(given))
        held = source.policy.model_copy(update=policy)
        found = ask(replace(source, describer=Describer(held, source.notes)), QUESTION)
        assert found.second_opinion is not None
        assert (found.outcome, rules(found), found.second_opinion.agrees) == ("answered", ["unconfirmed"], None)
        assert said in found.second_opinion.said, found.second_opinion.said


def test_what_a_table_says_cannot_tell_a_reader_what_to_do_to_our_statement(make: Make) -> None:
    """A model that does as it is told by a value can only say a reading: nothing of it becomes SQL."""
    told = reading(only=[{"column": "sailing.status", "values": ["X' OR 1=1 --"]}])
    found = asked(make, RIGHT, told)
    assert found.second_opinion is not None
    assert "t.status = 'X'' OR 1=1 --'" in (found.second_opinion.rewritten_sql or "")
    assert (found.second_opinion.agrees, found.trust) == (False, "caution")
