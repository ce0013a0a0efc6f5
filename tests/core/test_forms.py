"""The same rows in another form are the same answer, and other rows in a like form are not."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import pytest

from harquel.core.answers.forms import holds
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.joins import with_declared
from harquel.core.domain.result import Result
from harquel.core.reading import Reading
from harquel.core.reading.otherwise import Beside, beneath, parts_of, prefixes
from harquel.testing.scripted import Scripted
from harquel.testing.sources import ask, demo_notes, scanned
from tests.core.conftest import Make
from tests.core.test_control import Reader, read

COUNT = [{"figure": "count"}]
MONTHS = {"rows": "sailing", "figures": COUNT, "per": [{"column": "scheduled_departure", "unit": "month"}]}
DAYS = {"rows": "sailing", "figures": COUNT, "per": [{"column": "scheduled_departure", "unit": "weekday"}]}
STATES = {"rows": "sailing", "figures": COUNT, "per": [{"column": "status"}]}
CHANNELS = {"rows": "booking", "figures": COUNT, "per": [{"column": "channel"}]}
SHARES = {"rows": "sailing", "figures": [{"figure": "share", "only": [{"column": "status", "values": ["X"]}]}],
          "per": [{"column": "vessel.name"}]}  # fmt: skip
EACH = {"rows": "sailing", "figures": COUNT, "per": [{"column": "vessel.name"}]}
BEST = {**EACH, "order": [{"by": 0, "descending": True}], "top": 2}
YEARS = {"rows": "booking", "figures": [
    {"figure": "count", "during": [{"from": "2025-06-01", "until": "2025-09-01"}]},
    {"figure": "count", "during": [{"from": "2026-06-01", "until": "2026-09-01"}]},
]}  # fmt: skip
KINDS = {"rows": "booking_item", "per": [{"column": "route.code"}], "figures": [
    {"figure": "sum", "of": "quantity", "only": [{"column": "kind", "values": [kind]}]} for kind in ("foot", "car")
]}  # fmt: skip
QUARTERS = {"rows": "sailing", "figures": COUNT, "per": [{"column": "scheduled_departure", "unit": "quarter"}]}
LIST = {"rows": "vessel", "show": ["vessel.name", {"of": "passenger_capacity", "less": "car_capacity"}]}
WEEKS = {"rows": "sailing", "figures": COUNT, "per": [{"column": "scheduled_departure", "unit": "week"}]}


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    return with_declared(scanned(ferries), demo_notes())


def fits(catalog: Catalog, form: dict[str, Any], ours: list[list[Any]], shown: list[list[Any]]) -> bool | None:
    """Whether a result agrees with what a control gave, wholly; None where it does not."""
    reading = Reading.model_validate(form)
    parts = parts_of(reading, ours, catalog, demo_notes())
    below = beneath(reading, parts)
    result = Result(tuple(f"c{n}" for n in range(len(shown[0]))), ("",) * len(shown[0]), shown, None, 0, 0)
    found = holds(result, parts) or (holds(result, below) if below is not None else None)
    return found.whole if found is not None else None


@pytest.mark.parametrize(("form", "ours", "shown", "agrees"), [
    (MONTHS, [["2025-07", 4], ["2025-08", 6]], [["07", 4], ["08", 6]], True),
    (MONTHS, [["2025-07", 4], ["2025-08", 6]], [["August", 6], ["July", 4]], True),
    (MONTHS, [["2025-07", 4], ["2025-08", 6]], [["07", 6], ["08", 4]], None),
    # Of two years a month alone says too little.
    (MONTHS, [["2025-07", 4], ["2026-08", 6]], [["07", 4], ["08", 6]], None),
    (QUARTERS, [["2025-Q1", 4], ["2025-Q2", 6]], [[1, 4], [2, 6]], True),
    (QUARTERS, [["2025-Q4", 4], ["2026-Q1", 6]], [["Q4 2025", 4], ["Q1 2026", 6]], True),
    (WEEKS, [["2026-08-31", 4], ["2026-09-07", 6]], [["2026-W36", 4], ["2026-W37", 6]], True),
    (WEEKS, [["2026-08-31", 4], ["2026-09-07", 6]], [["2026-W30", 4], ["2026-W31", 6]], None),
    (DAYS, [[0, 4], [6, 5]], [["Sunday", 4], ["Saturday", 5]], True),
    (DAYS, [[0, 4], [6, 5]], [["Monday", 4], ["Sunday", 5]], None),
    (STATES, [["X", 4], ["A", 5]], [["cancelled", 4], ["arrived", 5]], True),
    (STATES, [["X", 4], ["A", 5]], [["arrived", 4], ["cancelled", 5]], None),
    (CHANNELS, [["web", 4], [None, 5]], [["web", 4], ["unknown", 5]], True),
    (CHANNELS, [["web", 4], [None, 5]], [["web", 4], ["phone", 5]], None),
    (SHARES, [["Aurelie", 12.5], ["Brightwater", 40.0]], [["Aurelie", 0.125], ["Brightwater", 0.4]], False),
    (SHARES, [["Aurelie", 12.5], ["Brightwater", 40.0]], [["Aurelie", 0.125], ["Brightwater", 0.5]], None),
    # As a part of one it needs the digits to say so: nothing, all of it or a half is no rounded share of a hundred.
    (SHARES, [["Aurelie", 2.24]], [["Aurelie", 0.0]], None), (SHARES, [["Aurelie", 97.3]], [["Aurelie", 1.0]], None),
    (SHARES, [["Aurelie", 47.3]], [["Aurelie", 0.5]], None), (SHARES, [["Aurelie", 50.0]], [["Aurelie", 0.5]], False),
    (SHARES, [["Aurelie", 47.3]], [["Aurelie", 0.47]], False), (SHARES, [["Aurelie", 47.3]], [["Aurelie", 0.44]], None),
    # Groups of which there is nothing may be listed; groups of which there is something may not be missing.
    (SHARES, [["Aurelie", 12.5]], [["Aurelie", 12.5], ["Old Petrel", 0]], True),
    (SHARES, [["Aurelie", 12.5]], [["Aurelie", 12.5], ["Old Petrel", 3]], None),
    (SHARES, [["Aurelie", 12.5], ["Brightwater", 40.0]], [["Aurelie", 12.5]], None),
    # Of a list no row is nothing.
    (LIST, [["Aurelie", 3]], [["Aurelie", 3], ["Old Petrel", 0]], None),
    # What ranks need not be shown; where it is, it is held against ours.
    (BEST, [["Aurelie", 9], ["Brightwater", 7]], [["Aurelie"], ["Brightwater"]], False),
    (BEST, [["Aurelie", 9], ["Brightwater", 7]], [["Aurelie", 9], ["Brightwater", 7]], True),
    (BEST, [["Aurelie", 9], ["Brightwater", 7]], [["Aurelie", 3], ["Brightwater", 2]], None),
    # Beside each other, or beneath: what tells the rows apart must be true.
    (YEARS, [[214, 198]], [["2025", 214], ["2026", 198]], True),
    (YEARS, [[214, 198]], [["2026", 214], ["2025", 198]], None),
    (YEARS, [[214, 198]], [["2025", 214], ["2026", 199]], None),
    (KINDS, [["QH-SR", 5, 2], ["QH-WE", 6, 1]], [["QH-SR", "car", 2], ["QH-SR", "foot", 5], ["QH-WE", "car", 1],
                                                 ["QH-WE", "foot", 6]], True),
    (KINDS, [["QH-SR", 5, 2], ["QH-WE", 6, 1]], [["QH-SR", "car", 5], ["QH-SR", "foot", 2], ["QH-WE", "car", 6],
                                                 ["QH-WE", "foot", 1]], None),
    # Two figures that are the same are two all the same.
    (KINDS, [["QH-SR", 5, 5], ["QH-WE", 6, 6]], [["QH-SR", 5], ["QH-WE", 6]], None),
    # Nothing on both sides can have any reason.
    (CHANNELS, [[None, 0]], [[None, 0]], None),
])  # fmt: skip
def test_another_form_of_the_same_agrees_and_another_answer_does_not(
    catalog: Catalog, form: dict[str, Any], ours: list[list[Any]], shown: list[list[Any]], agrees: bool | None
) -> None:
    assert fits(catalog, form, ours, shown) is agrees


def test_what_tells_figures_apart_settles_nothing_where_no_reading_says_it(make: Make) -> None:
    question = "Sailings on weekends and on weekdays in August 2026"
    day = {"column": "scheduled_departure", "unit": "weekday", "is": "in", "values": [6, 0]}
    figures = [{"figure": "count", "only": [one]} for one in (day, {**day, "not": True})]
    august = [{"from": "2026-08-01", "until": "2026-09-01"}]
    form = {"rows": "sailing", "figures": figures, "during": august, "words": question}
    turned = """SELECT CASE WHEN STRFTIME('%w', scheduled_departure) IN ('0', '6') THEN 'weekday' ELSE 'weekend' END
        AS part, COUNT(*) AS n FROM sailing WHERE scheduled_departure >= '2026-08-01' AND scheduled_departure <
        '2026-09-01' GROUP BY 1"""
    found = ask(read(make(Scripted(turned)), Reader(json.dumps(form))), question)
    assert found.second_opinion is not None
    assert (found.second_opinion.agrees, found.second_opinion.said) == (
        True, "Another statement with the same result as far as it goes, which settles nothing",
    )  # fmt: skip


def test_a_figure_that_only_the_answer_has_is_vouched_for_by_nobody(catalog: Catalog) -> None:
    assert fits(catalog, STATES, [["X", 4], ["A", 5]], [["cancelled", 4, 99], ["arrived", 5, 7]]) is False


@pytest.mark.parametrize(("form", "ours", "name", "values", "shown", "agrees"), [
    # A key says which row it is as well as a name, where in these rows one stands for the other.
    (BEST, [["Aurelie", 9], ["Brightwater", 7]], "vessel.id", (5, 1), [[5, 9], [1, 7]], True),
    (BEST, [["Aurelie", 9], ["Brightwater", 7]], "vessel.id", (5, 1), [[1, 9], [5, 7]], False),
    (BEST, [["Aurelie", 9], ["Aurelie", 7]], "vessel.id", (5, 1), [[5, 9], [1, 7]], False),
    # A key is no figure, whatever number it has.
    (EACH, [["Aurelie", 5], ["Brightwater", 1]], "vessel.id", (5, 1), [[5, "Aurelie"], [1, "Brightwater"]], False),
    # An amount is no name: another one that happens to be tied to it is another answer.
    (BEST, [["Aurelie", 9], ["Brightwater", 7]], "vessel.length_m", (42.5, 78.4), [[42.5, 9], [78.4, 7]], False),
])  # fmt: skip
def test_a_key_may_stand_for_a_name_and_an_amount_for_nothing(
    catalog: Catalog, form: dict[str, Any], ours: list[list[Any]], name: str, values: Sequence[Any],
    shown: list[list[Any]], agrees: bool,
) -> None:  # fmt: skip
    parts = parts_of(Reading.model_validate(form), ours, catalog, demo_notes(), [Beside(name, tuple(values))])
    result = Result(("a", "b"), ("", ""), shown, None, 0, 0)
    assert (holds(result, parts, {0}) is not None) is agrees


def test_a_table_that_is_there_twice_lends_no_names(catalog: Catalog) -> None:
    form = {"rows": "crew_member", "show": ["crew_member.rank", "manager_id>crew_member.rank"]}
    assert prefixes(Reading.model_validate(form), catalog) == {}
    form = {"rows": "sailing", "figures": COUNT, "per": [{"column": "route_id>from_harbour_id>harbour.name"}]}
    assert prefixes(Reading.model_validate(form), catalog) == {
        "sailing": "sailing.", "route": "route_id>route.", "harbour": "route_id>from_harbour_id>harbour.",
    }  # fmt: skip


@pytest.mark.parametrize(("draft", "agrees"), [
    ("SELECT v.id, COUNT(*) AS n FROM sailing s JOIN vessel v ON v.id = s.vessel_id GROUP BY v.id", True),
    ("SELECT vessel_id, COUNT(*) AS n FROM sailing GROUP BY vessel_id", True),
    ("SELECT v.code, COUNT(*) AS n FROM sailing s JOIN vessel v ON v.id = s.vessel_id GROUP BY v.code", True),
    ("SELECT v.built_year, COUNT(*) AS n FROM sailing s JOIN vessel v ON v.id = s.vessel_id GROUP BY v.id", False),
    ("SELECT route_id, COUNT(*) AS n FROM sailing GROUP BY route_id", False),
])  # fmt: skip
def test_the_control_is_asked_again_for_the_key_that_a_draft_shows(make: Make, draft: str, agrees: bool) -> None:
    form = '{"rows": "sailing", "figures": [{"figure": "count"}], "per": [{"column": "vessel.name"}], '
    form += '"words": "Number of sailings per vessel"}'
    found = ask(read(make(Scripted(draft)), Reader(form)), "Number of sailings per vessel")
    assert found.second_opinion is not None
    assert found.second_opinion.agrees is agrees, found.second_opinion.said


@pytest.mark.parametrize(("empty", "draft", "agrees"), [
    (False, "JOIN", True), (False, "LEFT JOIN", True), (True, "JOIN", False), (True, "LEFT JOIN", True),
])  # fmt: skip
def test_things_of_which_there_are_none_must_be_there_only_where_they_are_asked_for(
    make: Make, empty: bool, draft: str, agrees: bool
) -> None:
    question = "Number of grave incidents of each vessel"
    inner = {"rows": "incident", "only": [{"column": "severity", "is": "at least", "values": [5]}]}
    form = {"rows": "vessel", "show": ["vessel.name", {"of": inner}], "words": question, "empty": empty}
    sql = f"""SELECT v.name, COUNT(g.id) AS n FROM vessel v {draft} (SELECT i.id, s.vessel_id FROM incident i
    JOIN sailing s ON s.id = i.sailing_id WHERE i.severity >= 5) g ON g.vessel_id = v.id GROUP BY v.name"""
    found = ask(read(make(Scripted(sql)), Reader(json.dumps(form))), question)
    assert found.second_opinion is not None
    assert found.second_opinion.agrees is agrees, found.second_opinion.said
