"""What follows an answer: taken by changing its reading, or said as a whole question by a model; nothing of the answer
goes along.
"""

from __future__ import annotations

import json
import random
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from trust.chains import measured

from harquel.core.briefing import CatalogIndex, Describer
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Policy
from harquel.core.inquiry.source import Source
from harquel.core.language import language_of
from harquel.core.prompts.follow_up import AsksNothing, CanMean, NotSaid, StandsAlone, follow_up_of
from harquel.core.reading import Reading, changed, grounded
from harquel.core.reading.following.said import WORDS
from harquel.testing.scripted import Scripted
from harquel.testing.sources import NOW, Recorder, ask, demo_policy
from tests.core.conftest import Make
from tests.core.test_control import BY_DEPARTURE, ambiguous
from tests.core.test_second_opinion import QUESTION, RIGHT, Replies

CASES = read_yaml((Path(__file__).parents[1] / "data" / "following.yaml").read_text("utf-8"))
HERE = NOW.replace(tzinfo=None)
READ = CASES[0]["reading"]
MAYBE = ["quicker", "but not", "for staff", "whose", "excluding", "or", "half", "my", "who", "when", "Aurelie"]


@pytest.fixture(scope="module")
def index(make: Make) -> CatalogIndex:
    source = make(Scripted(""))
    return source.describer.of(source.catalog(lambda: False), Person("Ada Brinewell"))


def taken(case: dict[str, Any], said: str, index: CatalogIndex) -> Any:
    reading, question = Reading.model_validate(case["reading"]), case["question"]
    return changed(reading, question, said, language_of(question), index, HERE)


@pytest.mark.parametrize(("case", "said"), [(c, s) for c in CASES for s in c["taken"]], ids=lambda v: str(v)[:40])
def test_what_is_said_is_taken_by_the_reading_before_it(case: dict[str, Any], said: str, index: CatalogIndex) -> None:
    found = taken(case, said, index)
    assert found is not None
    assert found.question.rstrip("?") == case["taken"][said].rstrip("?")
    assert not grounded(found.reading, found.question, HERE)


@pytest.mark.parametrize(("case", "said"), [(c, s) for c in CASES for s in c["left"]], ids=lambda v: str(v)[:40])
def test_what_is_not_certain_is_left_to_a_model(case: dict[str, Any], said: str, index: CatalogIndex) -> None:
    assert taken(case, said, index) is None


def test_no_word_is_passed_over(index: CatalogIndex) -> None:
    """Whatever else is said beside what can be taken, wherever it stands: it is not taken without that."""
    dice = random.Random(14)
    for _ in range(1500):
        case = dice.choice(CASES)
        said = dice.choice(sorted(case["taken"])).split()
        made_up = "".join(dice.choice("bcdfghjklmnpqrstvwxz") for _ in range(dice.randint(4, 9)))
        more, at = dice.choice([*MAYBE, made_up]), dice.randint(0, len(said))
        found = taken(case, " ".join([*said[:at], more, *said[at:]]), index)
        told = {w.casefold() for w in WORDS.findall(found.question)} if found is not None else set()
        assert found is None or {w.casefold() for w in WORDS.findall(more)} <= told, (said, more, at, found.question)


def test_what_is_offered_beside_it_has_every_other_change_too(index: CatalogIndex) -> None:
    case = next(c for c in CASES if c["question"].startswith("Number of bookings"))
    found = taken(case, "per day in July", index)
    assert [one.question for one in found.beside] == ["Number of bookings per day in July 2026, most first"]


def followed(make: Make, said: str, *replies: str, sql: str = RIGHT, **more: Any) -> tuple[Inquiry, Inquiry, Replies]:
    """The first inquiry, the one that follows it, and who says what that asks."""
    model, follower = Scripted(sql), Replies(*replies)
    source = replace(make(model), reader=Replies(json.dumps(READ)), follower=follower)
    first = ask(source, QUESTION)
    assert first.second_opinion is not None
    assert first.second_opinion.agrees
    return first, ask(replace(source, **more), said, earlier=first), follower


PER_VESSEL = (
    "SELECT v.name, count(*) FROM sailing s JOIN vessel v ON v.id = s.vessel_id WHERE s.status = 'X' AND "
    "s.scheduled_departure >= '2026-08-01' AND s.scheduled_departure < '2026-09-01' GROUP BY v.name ORDER BY v.name"
)


@pytest.mark.parametrize(("said", "whole", "sql", "told", "left"), [
    ("only 2, says Odo", QUESTION, RIGHT, "not the 2", 0),
    ("2 of each vessel", QUESTION.replace("?", " per vessel?"), PER_VESSEL, "", 1),
])  # fmt: skip
def test_a_number_that_a_model_passes_over_is_told(
    make: Make, said: str, whole: str, sql: str, told: str, left: int
) -> None:
    _, found, _ = followed(make, said, json.dumps({"question": whole}), model=Scripted(sql), reader=Replies("none"))
    assert found.answer is not None, found.problem
    assert told in found.answer.text
    said_so = [c.message for c in found.answer.caveats if c.rule == "said-left-out"]
    assert len(said_so) == left
    assert all("2" in message for message in said_so)
    assert found.trust == "caution" or not left


def test_a_change_takes_no_model_but_the_draft_and_is_controlled_by_its_own_reading(make: Make) -> None:
    sql = RIGHT.replace("2026-08", "2026-07").replace("2026-09", "2026-08")
    source = replace(make(Scripted(sql)), reader=Replies(json.dumps(READ)), follower=Replies("none of it"))
    first = ask(replace(source, model=Scripted(RIGHT)), QUESTION)
    heard = Recorder()
    found = ask(source, "and in July?", heard, earlier=first)
    assert (found.standalone_question, found.trust, found.usage.calls) == (
        CASES[0]["taken"]["and in July?"],
        "clear",
        1,
    )
    assert [e.what.by for e in heard.events if e.kind == "restated"] == ["reading"]  # type: ignore[union-attr]
    assert found.second_opinion is not None
    assert (found.second_opinion.model, found.second_opinion.reading is not None) == ("", True)
    wrong = ask(replace(source, model=Scripted(RIGHT)), "and in July?", earlier=first)
    assert wrong.trust == "caution", "a draft for the month before is not that of July"


def test_a_figure_that_is_said_is_not_believed(make: Make) -> None:
    first, found, _ = followed(make, "so 214?")
    assert found.answer is not None
    assert first.answer is not None
    assert found.answer.table.rows == first.answer.table.rows
    assert "not the 214" in found.answer.text
    _, found, _ = followed(make, f"so {first.answer.table.rows[0][0]}?")
    assert found.answer is not None
    assert "that you said" in found.answer.text
    assert "not the" not in found.answer.text


def test_why_takes_a_figure_apart_by_what_sets_its_parts_apart(make: Make) -> None:
    _, found, _ = followed(make, "and why?")
    assert found.standalone_question is not None
    assert found.standalone_question.startswith("How many sailings were cancelled in August 2026, per ")


def test_the_answer_before_it_is_told_to_no_model(make: Make) -> None:
    """The figure, the sentence and the rows stay here; what was asked and how it was understood goes along."""
    sql = "SELECT 7654321 AS n, 'Morrow Tide' AS vessel"
    source = replace(make(Scripted(sql)), reader=Replies("none"))
    first = ask(source, QUESTION)
    heard = Recorder()
    follower = Replies('{"question": "How many sailings were cancelled in August 2026 by crews of three?"}')
    found = ask(replace(source, follower=follower), "and by crews of three?", heard, earlier=first)
    assert found.standalone_question == "How many sailings were cancelled in August 2026 by crews of three?"
    prompts = [e.texts["prompt"] for e in heard.events if e.kind == "prompted"]
    assert len(prompts) >= 2
    told = follower.asked[0][1]["content"]
    assert "What its query does" in told
    # The statement is read back, which holds what it holds; no row is.
    assert not any("7,654,321" in p or first.answer.text in p for p in prompts if first.answer is not None)


def told(source: Source, first: Inquiry) -> str:
    """What a model is told of an inquiry, once something is said after it that only a model takes."""
    follower = Replies('{"nothing": true}')
    ask(replace(source, follower=follower), "and what else do you know?", earlier=first)
    return follower.asked[0][1]["content"]


def test_what_may_no_longer_be_seen_of_what_was_answered_is_told_to_no_model(make: Make) -> None:
    """Neither what its statement does nor how it was understood, where those of now may not have it run."""
    sql = "SELECT COUNT(*) AS n FROM sailing s JOIN vessel v ON v.id = s.vessel_id WHERE v.name = 'Brightwater'"
    read = {"rows": "sailing", "figures": [{"words": "How many sailings", "figure": "count"}],
            "only": [{"words": "of Brightwater", "column": "vessel.name", "values": ["Brightwater"]}]}  # fmt: skip
    base = make(Scripted(sql))
    first = ask(replace(base, reader=Replies(json.dumps(read))), "How many sailings of Brightwater are there?")
    assert first.second_opinion is not None
    assert first.second_opinion.agrees
    base = replace(base, reader=None)
    closed = told(replace(base, describer=Describer(demo_policy(["vessel"]), base.notes)), first)
    assert closed.count("Brightwater") == 1, "the question is the asker's own"
    assert all(part in told(base, first) for part in ("## It was understood as", "## What its query does"))


def test_what_was_asked_back_is_told_without_its_figures_and_only_where_the_same_may_be_seen(make: Make) -> None:
    first, base = ambiguous(make, BY_DEPARTURE), make(Scripted(""))
    assert first.clarify is not None
    ways = first.clarify.choices
    assert [way.label for way in ways] != [way.reading for way in ways], "a label holds what it comes to"
    same = told(base, first)
    assert all(f"- {way.reading}\n" in same and way.label not in same for way in ways)
    few = Policy.model_validate({**base.policy.model_dump(), "rows": [{"table": "harbour", "where": "code = 'BW'"}]})
    for policy in (demo_policy(["vessel"]), few):
        other = told(replace(base, describer=Describer(policy, base.notes)), first)
        assert "## Earlier question" in other
        assert not any(way.reading in other for way in ways)


def test_what_asks_for_nothing_is_asked_back_and_costs_no_query(make: Make) -> None:
    _, found, _ = followed(make, "much obliged", '{"nothing": true}')
    assert found.outcome == "clarify"
    assert found.clarify is not None
    assert (found.clarify.choices, found.attempts) == ([], [])


def test_what_can_be_meant_in_two_ways_is_asked_back_with_whole_questions(make: Make) -> None:
    ways = ["How many sailings were late in August 2026?", "How many sailings were late in 2026?"]
    _, found, _ = followed(make, "late ones", json.dumps({"ask": "In August?", "readings": ways}))
    assert found.clarify is not None
    assert [(c.label, c.question) for c in found.clarify.choices] == [(w, w) for w in ways]


def test_a_number_that_nobody_said_is_sent_back(make: Make) -> None:
    made_up = '{"question": "How many sailings were cancelled in August 2026 with more than 40 passengers?"}'
    said = '{"question": "How many sailings were cancelled with many passengers in May 2024?"}'
    _, found, follower = followed(make, "with many passengers, two years ago in May", made_up, said)
    assert found.standalone_question == json.loads(said)["question"], "the year is of a period"
    assert "Nobody said these numbers: 40." in follower.asked[1][-1]["content"]
    _, found, _ = followed(make, "with many passengers", made_up)
    assert found.outcome == "clarify"


def test_what_stands_alone_is_asked_as_it_is(make: Make) -> None:
    _, found, _ = followed(make, "How many vessels are in service?", '{"alone": true}', sql=RIGHT)
    assert found.standalone_question is None
    assert found.outcome == "answered"


@pytest.mark.parametrize(
    ("reply", "kind"),
    [
        ('{"question": "How many?"}', StandsAlone), ('<think>{"nothing": true}</think>{"alone": true}', StandsAlone),
        ('Sure!\n```json\n{"question": "How many?"}\n```', StandsAlone), ('{"nothing": true}', AsksNothing),
        ('{"ask": "Which?", "readings": ["One?", "Two?"]}', CanMean),
        ('{"ask": "Which?", "readings": ["One?"]}', NotSaid),
        ('{"question": ""}', NotSaid), ('{"question": 7}', NotSaid), ("How many?", NotSaid), ("", NotSaid),
        ('{"question": "' + "x" * 4001 + '"}', NotSaid), ("{" * 300_000, NotSaid), ('{"question":' * 20_000, NotSaid),
        ('{"ask": "Which?", "readings": ' + json.dumps(["x" * 500] * 2000) + "}", NotSaid),
    ],
    ids=lambda value: str(value)[:30],
)  # fmt: skip
def test_each_reply_is_taken_apart_within_bounds(reply: str, kind: type) -> None:
    assert isinstance(follow_up_of(reply), kind)


def test_conversations_come_out_right_on_rows_that_have_changed() -> None:
    """The twenty over the demo; those over the kit's world are measured where that is (python -m trust.chains)."""
    found = measured("demo")
    assert (found.chains, found.follow_ups, found.silent) == (20, 40, 0)
    assert (found.right, found.whole) == (40, 20), found.cases
