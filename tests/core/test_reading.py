"""Readings: what is one, whether it is of the question, and from which no statement is built."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Any

import pytest

from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.joins import with_declared
from harquel.core.domain.notes import Notes
from harquel.core.reading import NoControl, NoReading, Reading, control, grounded, reading_of
from harquel.testing.sources import NOW, demo_notes, scanned

QUESTION = "How many sailings were cancelled in August 2026?"
READING: dict[str, Any] = {
    "rows": "sailing",
    "figures": [{"figure": "count", "words": "How many sailings"}],
    "only": [{"column": "sailing.status", "values": ["X"], "words": "cancelled"}],
    "during": [{"from": "2026-08-01", "until": "2026-09-01", "words": "in August 2026"}],
}


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    return with_declared(scanned(ferries), demo_notes())


def built(catalog: Catalog, engine: str = "sqlite", **changed: Any) -> str:
    reading = reading_of(json.dumps({**READING, **changed}))
    assert isinstance(reading, Reading), reading
    return control(reading, catalog, demo_notes(), engine, NOW)


def nested(levels: int) -> dict[str, Any]:
    inner: dict[str, Any] = {"column": "sailing.status", "values": ["X"]}
    for _ in range(levels):
        inner = {"any": [inner]}
    return {**READING, "only": [inner]}


@pytest.mark.parametrize(("reply", "fault"), [
    ("I would count the sailings.", "holds no reading"),
    ('{"rows": "sailing"' + " " * 30_000, "more than 20,000 characters"),
    ('{"rows": ' * 2_000, "holds no reading"),
    (json.dumps(nested(9)), "more than 12 deep"),
    (json.dumps({**READING, "sql": "DELETE FROM sailing"}), "sql: Extra inputs"),
    (json.dumps({**READING, "figures": [{"figure": "count"}] * 40}), "figures: Tuple should have at most 24"),
    (json.dumps({**READING, "top": 10**9}), "top: "),
    (json.dumps({**READING, "keep": [{"value": float("inf")}]}), "keep.0.value: Input should be a finite number"),
    (json.dumps({**READING, "rows": "x" * 900}), "rows: "),
    ('{"rows": "sailing", "top": ' + "9" * 5_000 + "}", "holds no reading"),
])  # fmt: skip
def test_what_is_no_reading_is_said_to_be_none(reply: str, fault: str) -> None:
    found = reading_of(reply)
    assert isinstance(found, NoReading)
    assert fault in found.fault
    assert len(found.fault) < 700


def test_a_reading_is_found_among_thoughts_and_fences() -> None:
    reply = f'<think>Count them? {{"rows": 1}}</think>\n```json\n{json.dumps(READING)}\n```\nThat is how I see it.'
    assert isinstance(reading_of(json.dumps(READING)), Reading)
    assert isinstance(reading_of(reply), Reading)


@pytest.mark.parametrize(("changed", "fault"), [
    ({}, ""),
    ({"figures": [{"figure": "count", "words": "How  MANY … sailings"}]}, ""),
    ({"figures": [{"figure": "count", "words": "revenue"}]}, '"revenue" does not stand in the question.'),
    ({"during": [{"from": "2025-08-01", "until": "2025-09-01", "words": "in August 2026"}]},
     '"in August 2026" is from 2026-08-01 until 2026-09-01'),
    # The last day is lost.
    ({"during": [{"from": "2026-08-01", "until": "2026-08-31", "words": "in August 2026"}]}, "is from 2026-08-01"),
    ({"during": [{"from": "yesterday", "until": "2026-08-31", "words": "in August 2026"}]}, "no time in ISO 8601"),
    # Words that we do not know how to read decide nothing.
    ({"during": [{"from": "2026-08-01", "until": "2026-08-15", "words": "cancelled"}], "words": "in August 2026"}, ""),
    # What is left out is said: a part that nothing asks for, a number or a denial that is to ask for nothing.
    ({"only": []}, "No part quotes these words of the question: cancelled."),
    ({"only": [], "idle": ["cancelled"]}, ""),
    ({"during": [], "idle": ["August"]}, "No part quotes these words of the question: 2026."),
    ({"during": [], "idle": ["August 2026"]}, "ask for something and cannot be idle: 2026."),
    ({"words": "How many sailings were cancelled in August 2026 " * 2}, "is more than 10 words"),
    ({"words": "cancelled sailings"}, "does not stand in the question"),
])  # fmt: skip
def test_words_stand_in_the_question_and_times_are_those_that_they_say(changed: dict[str, Any], fault: str) -> None:
    found = grounded(Reading.model_validate({**READING, **changed}), QUESTION, NOW)
    assert len(found) == bool(fault), found
    assert fault in " ".join(found)


def test_a_denial_is_never_idle_in_either_language_and_light_words_need_no_part() -> None:
    for question, denial in (
        ("How many sailings were not cancelled?", "not"), ("Wie viele Überfahrten sind nicht ausgefallen?", "nicht"),
    ):  # fmt: skip
        words = question.rstrip("?").split()
        words = [*words[:3], "…", words[-1]]
        given = Reading.model_validate({"rows": "sailing", "words": " ".join(words)})
        (fault,) = grounded(given, question, NOW)
        assert fault.startswith(f"No part quotes these words of the question: {denial}.")
        idle = given.model_copy(update={"idle": (denial,)})
        assert "cannot be idle" in " ".join(grounded(idle, question, NOW))


def test_a_question_and_a_reading_of_any_length_are_held_against_each_other_at_once() -> None:
    given = Reading.model_validate({"rows": "sailing", "idle": ["a a a a a"] * 100, "words": "a " * 5})

    def took(words: int) -> float:
        times = []
        for _ in range(3):
            started = time.process_time()
            assert grounded(given, "a " * words, NOW) == []
            times.append(time.process_time() - started)
        return min(times)

    # Eight times as many words: with a step for each pair of them it would take sixty-four times as long.
    assert took(2000) < 24 * took(250)


@pytest.mark.parametrize(("words", "since", "until"), [
    ("im Juli 2026", "2026-07-01", "2026-08-01"), ("im letzten Quartal", "2026-04-01", "2026-07-01"),
    ("im 2. Quartal 2026", "2026-04-01", "2026-07-01"), ("am 3. Mai 2026", "2026-05-03", "2026-05-04"),
    ("von Januar bis März 2026", "2026-01-01", "2026-04-01"), ("in diesem Jahr", "2026-01-01", "2026-09-14 10:00"),
    ("in den letzten 30 Tagen", "2026-08-15", "2026-09-14 10:00"), ("gestern", "2026-09-13", "2026-09-14"),
    ("im vergangenen Monat", "2026-08-01", "2026-09-01"), ("im ersten Halbjahr 2026", "2026-01-01", "2026-07-01"),
])  # fmt: skip
def test_times_in_german_are_known_too_and_one_that_is_not_known_speaks_against_nothing(
    words: str, since: str, until: str
) -> None:
    question = f"Wie viele Fahrten sind {words} ausgefallen?"
    parts: dict[str, Any] = {
        "rows": "sailing",
        "words": "Wie viele Fahrten",
        "only": [{**READING["only"][0], "words": "ausgefallen"}],
    }
    right = {**parts, "during": [{"from": since, "until": until, "words": words}]}
    assert grounded(Reading.model_validate(right), question, NOW) == []
    wrong = {**parts, "during": [{"from": "2019-01-01", "until": "2019-02-01", "words": words}]}
    (fault,) = grounded(Reading.model_validate(wrong), question, NOW)
    assert "not from 2019-01-01 until 2019-02-01" in fault
    # A word beside it that we do not know may be what narrows it.
    odd = f"{words} vormittags"
    asked = f"Wie viele Fahrten sind {odd} ausgefallen?"
    unknown = {**parts, "during": [{"from": "2019-01-01", "until": "2019-02-01", "words": odd}]}
    assert grounded(Reading.model_validate(unknown), asked, NOW) == []


def test_this_year_may_be_read_whole_or_up_to_now() -> None:
    for until, fits in (("2027-01-01", True), ("2026-09-14 10:00:00", True), ("2026-06-01", False)):
        during = [{"from": "2026-01-01", "until": until, "words": "this year"}]
        reading = Reading.model_validate({**READING, "only": [], "during": during})
        assert (grounded(reading, "How many sailings this year?", NOW) == []) is fits, until


@pytest.mark.parametrize(("changed", "fault"), [
    ({"rows": "sailings"}, 'There is no table "sailings". Nearest: sailing'),
    ({"only": [{"column": "sailing.state", "values": ["X"]}]}, 'sailing has no column "state"'),
    ({"only": [{"column": "sailing.status"}]}, "does not fit 0 values"),
    ({"only": [{"column": "id", "values": [10**400]}]}, "too large for a database"),
    ({"only": [{"worth": {"of": "id"}, "values": [-(10**400)]}]}, "too large for a database"),
    ({"only": [{"column": "id", "values": [1], "any": [{"column": "id", "values": [2]}]}]}, "A condition is on"),
    ({"only": [{"column": "harbour.name", "values": ["Dunmarrow"]}]}, "Several keys lead from sailing to harbour"),
    ({"only": [{"column": "booking.channel", "values": ["web"]}]}, "No keys lead from sailing to booking"),
    ({"only": [{"column": "vessel_id>route.code", "values": ["QH-SR"]}]}, "leads from sailing to vessel, not to route"),
    ({"only": [{"column": ">".join(["vessel_id"] * 9) + ">vessel.name"}]}, "more than 6"),
    ({"only": [{"has": "harbour"}]}, "No keys lead from harbour to sailing"),
    ({"only": [{"column": "scheduled_departure", "is": "like", "values": ["2026%"]}]}, "no time in ISO 8601"),
    ({"figures": [{"figure": "sum", "of": "sailing.status"}]}, "holds no numbers"),
    ({"figures": [{"figure": "sum"}]}, "not said of which column"),
    ({"figures": [{"figure": "share"}]}, "told which rows"),
    ({"figures": [{"figure": "measure", "of": "revenue"}]}, "is of rows of booking, not of sailing"),
    ({"figures": [{"figure": "measure", "of": "profit"}]}, 'No measure is called "profit"'),
    ({"figures": [{"figure": "difference", "between": [0, 1]}]}, "between two earlier figures"),
    ({"figures": [{"figure": "count"}, {"figure": "measure", "of": "number of sailings"}]}, "count different rows"),
    ({"show": ["sailing.id"]}, "either figures or columns"),
    ({"figures": []}, "either figures or columns"),
    ({"figures": [{"figure": "median", "of": "id"}], "top": 3}, "A median stands by itself"),
    ({"figures": [{"figure": "median", "of": "id"}, {"figure": "count"}]}, "A median stands by itself"),
    ({"order": [{"by": 3}]}, "no figure 3"),
    ({"order": [{"by": "sailing.id"}]}, "cannot be ordered by sailing.id"),
    ({"keep": [{"figure": 2, "value": 1}]}, "no figure 2"),
    ({"open": ["on days with rain"]}, "leaves something open: on days with rain"),
    ({"during": [{"from": "2026-08-01T00:00:00+02:00"}]}, "names a zone"),
    ({"both": True, "top": 1}, "Both ends are those of an order"),
    ({"both": True, "order": [{"by": 0}]}, "Both ends are those of an order"),
    ({"both": True, "tally": True, "top": 1, "order": [{"by": 0}]}, "Both ends are those of an order"),
    ({"only": [{"has": "incident", "different": "severity"}]}, "at least or at most how many"),
    ({"only": [{"has": "incident", "different": "gravity", "at_least": 2}]}, 'no column "gravity"'),
    ({"only": [{"has": "incident", "same": "day", "at_least": 2}]}, "they are not counted"),
    ({"only": [{"has": "harbour", "same": "day"}]}, "by which time rows of harbour are dated"),
    ({"rows": "harbour", "only": [{"has": "sailing", "same": "day"}], "during": []}, "rows of harbour are dated"),
    ({"each": {"per": "scheduled_departure", "unit": "day", "by": "captain"}}, 'no column "captain"'),
    ({"each": {"per": "vessel.id", "unit": "day", "by": "sailing.id"}}, "holds no times"),
])  # fmt: skip
def test_what_cannot_be_built_is_said_and_not_guessed(catalog: Catalog, changed: dict[str, Any], fault: str) -> None:
    with pytest.raises(NoControl) as caught:
        built(catalog, **changed)
    assert fault in str(caught.value)


def test_nothing_that_a_reading_asks_for_grows_beyond_measure(catalog: Catalog) -> None:
    doubling = [{"figure": "count"}, *({"figure": "difference", "between": [n, n]} for n in range(20))]
    with pytest.raises(NoControl, match="too much to work out"):
        built(catalog, figures=doubling)
    many = {"any": [{"column": "sailing.id", "values": [n]} for n in range(24)]}
    assert len(built(catalog, only=[many] * 10)) < 20_000


@pytest.mark.parametrize("sql", [
    "SUM(sailing.id) OVER ()", "GROUP_CONCAT(sailing.status)", "COUNT(*) - (SELECT COUNT(*) FROM vessel)",
    "COUNT(DISTINCT sailing.id, sailing.status)",
])  # fmt: skip
def test_a_measure_that_is_more_than_sums_of_rows_is_not_split_over_two_times(catalog: Catalog, sql: str) -> None:
    page = demo_notes()
    odd = page.measures["on time rate"].model_copy(update={"sql": sql, "where": None})
    notes = page.model_copy(update={"measures": {"odd": odd}})
    years = [{"from": f"{y}-01-01", "until": f"{y + 1}-01-01"} for y in (2025, 2026)]
    reading = Reading.model_validate({
        "rows": "sailing", "figures": [{"figure": "measure", "of": "odd", "during": [year]} for year in years],
    })  # fmt: skip
    with pytest.raises(NoControl, match=r"cannot be narrowed|distinct columns|into other queries"):
        control(reading, catalog, notes, "sqlite", NOW)


def test_what_may_not_be_seen_is_not_there(catalog: Catalog) -> None:
    seen = catalog.only(lambda table, column: (table, column) not in {("payment", None), ("sailing", "status")})
    for changed in ({}, {"only": [{"has": "payment"}]}):
        with pytest.raises(NoControl, match=r"no column|no table"):
            built(seen, **changed)


def test_values_are_values_whatever_stands_in_them(catalog: Catalog) -> None:
    for engine in ("sqlite", "postgresql", "mariadb"):
        sql = built(catalog, engine, only=[{"column": "cancel_reason", "values": ["x'; DROP TABLE sailing; -- \\"]}])
        assert "'x''; DROP TABLE sailing; -- " in sql
        assert sql.count("SELECT") == 1


def test_two_of_a_kind_are_two_queries(catalog: Catalog) -> None:
    """Conditions on rows that point here do not see each other's names, however they are nested."""
    has = {"has": "booking", "only": [{"has": "payment", "only": [{"column": "method", "values": ["card"]}]}]}
    sql = built(catalog, only=[has, {**has, "not": True}])
    assert sql.count("EXISTS") == 4
    deep: dict[str, Any] = {"has": "payment"}
    for _ in range(4):
        deep = {"any": [deep]}
    assert "EXISTS" in built(catalog, rows="booking", during=[], only=[deep])


def test_each_column_has_a_name_of_its_own() -> None:
    table = Table("odd", "table", tuple(Column(name, "INTEGER", True) for name in ("a_3", "a", "größe", "2nd")))
    shown = ["odd.a_3", "odd.a", "odd.a", "odd.größe", "odd.2nd"]
    sql = control(Reading(rows="odd", show=tuple(shown)), Catalog("sqlite", (table,), "", NOW), Notes(), "sqlite", NOW)
    names = [piece.split(",")[0].split(" FROM")[0] for piece in sql.split(" AS ")[1:-1]]
    assert len(set(names)) == len(shown), sql


def test_codes_are_codes_and_meanings_are_meant(catalog: Catalog) -> None:
    one = built(catalog, only=[{"column": "status", "values": ["Cancelled"]}])
    assert one == built(catalog, only=[{"column": "status", "values": ["X"]}])
    assert "is_staff" in built(
        catalog, rows="booking", during=[], only=[{"column": "customer.is_staff", "values": [1]}]
    )


def test_what_is_made_across_groups_is_one_figure_for_fewer_of_them() -> None:
    across = {"rows": "sailing", "figures": [{"figure": "count"}, {"figure": "sum", "of": "id"}],
              "per": [{"column": "vessel.name"}, {"column": "scheduled_departure", "unit": "month"}],
              "keep": [{"figure": 0, "value": 3}], "across": {"figure": "maximum", "of": 1, "per": [1]}}  # fmt: skip
    reading = Reading.model_validate(across)
    given = reading.given()
    assert [(p.column, p.unit) for p in given.per] == [("scheduled_departure", "month")]
    assert ([f.figure for f in given.figures], given.keep, given.across) == (["maximum"], (), None)
    assert reading.asked_for() == frozenset({1})
    assert Reading.model_validate(READING).given() == Reading.model_validate(READING)


def beyond(than: dict[str, Any], how: str = "more", **more: Any) -> dict[str, Any]:
    """Sailings held against a figure of vessels."""
    return {"only": [{"column": "sailing.id", "is": how, "than": {"rows": "vessel", **than}, **more}]}


@pytest.mark.parametrize(("changed", "fault"), [
    ({"across": {"of": 2}}, "of one of their figures"), ({"across": {"per": [1]}}, "of one of their figures"),
    ({"across": {}, "tally": True}, "of one of their figures"),
    ({"across": {}, "order": [{"by": "sailing.id"}]}, "is ordered by itself"),
    (beyond({"of": "id"}, how="like"), "is compared with"), (beyond({"of": "id"}, values=[1]), "is compared with"),
    (beyond({"of": "name"}), "holds no numbers"), (beyond({"rows": "ships", "of": "id"}), "no table"),
    (beyond({"of": "id", "within": "vessel.name"}), None),
    ({"only": [{"column": "scheduled_departure", "unit": "clock", "values": ["noon"]}]}, "is no time of day"),
])  # fmt: skip
def test_what_cannot_be_held_against_a_figure_is_said(
    catalog: Catalog, changed: dict[str, Any], fault: str | None
) -> None:
    said = {"rows": "sailing", "figures": [{"figure": "count"}], "per": [{"column": "vessel.name"}], **changed}
    reading = Reading.model_validate(said)
    if fault is None:
        assert "AVG(ts0.id) AS held FROM vessel AS ts0 GROUP BY" in control(reading, catalog, Notes(), "sqlite", NOW)
        return
    with pytest.raises(NoControl, match=fault):
        control(reading, catalog, Notes(), "sqlite", NOW)
