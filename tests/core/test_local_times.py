"""Times as clocks show them where people are, of databases that hold UTC: weeks from Sunday, a fiscal year from April,
a zone with summer time; on the real engines, held against the calendar of the Python library.
"""

from __future__ import annotations

import datetime as dt
import json
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError

from harquel.core.calendar import Calendar
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.engines import Engine
from harquel.core.guard import rule_on_text
from harquel.core.reading import Reading, control
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.scanning import CatalogKeeper
from harquel.core.sql.local_time import as_people_see_it
from harquel.core.sql.tree import parse, render
from tests.conftest import servers
from tests.core.zoned import NOTES, NOW, PLAIN, ROWS, TABLE, UNITS, ZONE, crossings, local

pytestmark = servers


@pytest.fixture(scope="module", params=["sqlite", "postgresql", "mariadb"])
def engine(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Engine]:
    with crossings(request, tmp_path_factory.mktemp("zones"), "zones") as made:
        yield made


@pytest.fixture(scope="module")
def catalog(engine: Engine) -> Catalog:
    return CatalogKeeper(engine, Policy).current()


@pytest.fixture(scope="module")
def run(engine: Engine, catalog: Catalog) -> Iterator[Callable[[str], list[list[Any]]]]:
    sandbox = Sandbox(engine, SandboxLimits(20, 2000, 1_000_000, 256 * 2**20), size=1)
    sandbox.calendar = NOTES.calendar

    def rows_of(sql: str) -> list[list[Any]]:
        ruled = rule_on_text(DraftedStatement(sql), engine.name, catalog, Policy())
        assert ruled.statement is not None, (sql, ruled.findings)
        return sandbox.run(ruled.statement).rows

    yield rows_of
    sandbox.close()


@pytest.mark.parametrize("column", ["left_at", "told_at", "sails_on"])
@pytest.mark.parametrize("unit", UNITS)
def test_units_of_time_are_those_that_clocks_show(
    unit: str, column: str, engine: Engine, catalog: Catalog, run: Callable[[str], list[list[Any]]]
) -> None:
    place = {"left_at": 2, "told_at": 3, "sails_on": 4}[column]
    if column == "sails_on" and unit == "hour":
        return
    times: list[Any] = [row[place] for row in ROWS]
    shown = [local(at) if column != "sails_on" else dt.datetime.combine(at, dt.time()) for at in times]
    reading = Reading.model_validate(
        {"rows": "crossing", "figures": [{"figure": "count"}], "per": [{"column": f"crossing.{column}", "unit": unit}]}
    )
    found = run(control(reading, catalog, NOTES, engine.name, NOW))
    assert {str(key): int(count) for key, count in found} == Counter(str(UNITS[unit](at)) for at in shown)


AUGUST = {"column": "crossing.left_at", "from": "2026-08-01", "until": "2026-09-01"}
NIGHT = {"column": "crossing.left_at", "from": "2026-10-25", "until": "2026-10-26"}
READINGS: list[tuple[dict[str, Any], Callable[[dt.datetime, dt.datetime, dt.date], bool]]] = [
    ({"during": [AUGUST]}, lambda left, told, on: (left.year, left.month) == (2026, 8)),
    ({"during": [NIGHT]}, lambda left, told, on: left.date() == dt.date(2026, 10, 25)),
    ({"only": [{"column": "crossing.left_at", "is": "equal", "values": ["2026-03-29"]}]},
     lambda left, told, on: left.date() == dt.date(2026, 3, 29)),
    ({"only": [{"column": "crossing.told_at", "is": "between", "values": ["2026-01-01", "2026-03-29"]}]},
     lambda left, told, on: dt.date(2026, 1, 1) <= told.date() <= dt.date(2026, 3, 29)),
    ({"only": [{"column": "crossing.told_at", "is": "at most", "values": ["2026-08-01 00:30:00"]}]},
     lambda left, told, on: told <= dt.datetime(2026, 8, 1, 0, 30)),
    ({"only": [{"column": "crossing.left_at", "is": "equal", "unit": "hour", "values": [2]}]},
     lambda left, told, on: left.hour == 2),
    ({"only": [{"column": "crossing.left_at", "is": "in", "unit": "weekday", "values": [0, 6]}]},
     lambda left, told, on: left.weekday() >= 5),
    ({"only": [{"column": "crossing.told_at", "is": "less", "unit": "clock", "values": ["01:15"]}]},
     lambda left, told, on: f"{told:%H:%M}" < "01:15"),
    ({"only": [{"column": "crossing.left_at", "is": "equal", "other": "crossing.sails_on"}]},
     lambda left, told, on: left.date() == on),
    ({"only": [{"column": "crossing.told_at", "is": "more", "other": "crossing.sails_on"}]},
     lambda left, told, on: told.date() > on),
    ({"only": [{"worth": {"of": "crossing.told_at", "since": "crossing.left_at", "unit": "minutes"}, "is": "at least",
                "values": [200]}]}, lambda left, told, on: True),
    ({"only": [{"worth": {"of": "now", "since": "crossing.left_at", "unit": "hours"}, "is": "less", "values": [2400]}]},
     lambda left, told, on: True),
]  # fmt: skip


@pytest.mark.parametrize("number", range(len(READINGS)))
def test_what_is_asked_of_times_is_meant_as_clocks_show_them(
    number: int, engine: Engine, catalog: Catalog, run: Callable[[str], list[list[Any]]]
) -> None:
    parts, holds = READINGS[number]
    reading = Reading.model_validate({"rows": "crossing", "show": ["crossing.id"], **parts})
    found = {int(row[0]) for row in run(control(reading, catalog, NOTES, engine.name, NOW))}
    want = {n for n, _, left, told, on, _ in ROWS if holds(local(left), local(told), on)}
    if "worth" in str(parts):
        # How long something takes is no matter of clocks that were changed meanwhile.
        now, minutes = NOW.replace(tzinfo=None), dt.timedelta(minutes=200)
        of_row = {n: (told - left >= minutes, now - left < dt.timedelta(hours=2400)) for n, _, left, told, *_ in ROWS}
        want = {n for n, held in of_row.items() if held["now" in str(parts)]}
    assert found == want
    # All of them sailed on the day that clocks showed.
    assert 0 < len(want) < len(ROWS) or '"other"' in json.dumps(parts)


def test_times_are_shown_as_clocks_show_them(
    engine: Engine, catalog: Catalog, run: Callable[[str], list[list[Any]]]
) -> None:
    shown = {"rows": "crossing", "show": ["crossing.id", "crossing.left_at", "crossing.told_at", "crossing.sails_on"]}
    for row in run(control(Reading.model_validate(shown), catalog, NOTES, engine.name, NOW)):
        _, _, left, told, on, _ = ROWS[int(row[0])]
        assert [str(v).replace("T", " ") for v in row[1:]] == [str(local(left)), str(local(told)), str(on)]
    last = {"rows": "crossing", "figures": [{"figure": "maximum", "of": "crossing.left_at"}]}
    (newest,) = run(control(Reading.model_validate(last), catalog, NOTES, engine.name, NOW))
    assert str(newest[0]).replace("T", " ") == str(max(local(row[2]) for row in ROWS))


@pytest.mark.parametrize("number", range(len(READINGS) + len(UNITS)))
def test_a_statement_is_read_as_if_the_database_held_what_clocks_show(
    number: int, engine: Engine, catalog: Catalog
) -> None:
    """What is taken out again is all that was put in: the same statement as of a database in local time."""
    if number < len(READINGS):
        parts = {"show": ["crossing.id", "crossing.told_at"], **READINGS[number][0]}
    else:
        unit = list(UNITS)[number - len(READINGS)]
        parts = {"figures": [{"figure": "count"}], "per": [{"column": "crossing.left_at", "unit": unit}]}
    reading = Reading.model_validate({"rows": "crossing", **parts})
    if "now" in str(parts):
        return  # the instant of the question is another literal there
    here, there = (control(reading, catalog, notes, engine.name, NOW) for notes in (NOTES, PLAIN))
    (tree,) = parse(here, engine.name)
    told = render(as_people_see_it(tree, catalog, NOTES.calendar), engine.name)
    assert told.replace(" 00:00:00'", "'") == str(there)


@pytest.mark.parametrize(
    "wrong",
    [
        {"zone": "Mars/Olympus"}, {"zone": "../../etc/passwd"}, {"zone": ""}, {"zone": "x" * 61}, {"stored": "mars"},
        {"week_begins": "someday"}, {"fiscal_year": {"begins": "april"}}, {"fiscal_year": {"begins": 4}},
    ],
)  # fmt: skip
def test_calendars_that_are_none_are_refused(wrong: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        Calendar.model_validate(wrong)


def test_a_zone_that_the_database_does_not_know_is_an_error_and_no_empty_result(
    engine: Engine, catalog: Catalog, tmp_path: Path
) -> None:
    if engine.name == "postgresql":
        return  # it says so itself
    sandbox = Sandbox(engine, SandboxLimits(20, 1000, 1_000_000, 256 * 2**20), size=1)
    # As of a table of zones that is not this one: nothing is ahead of UTC by a minute there.
    calendar = Calendar(zone="Australia/Eucla", stored="utc")
    if engine.name == "sqlite":
        calendar.__dict__["offsets"] = tuple((at, 60) for at, _ in calendar.offsets)
    sandbox.calendar = calendar
    reading = Reading.model_validate({"rows": "crossing", "show": ["crossing.left_at"]})
    notes = replace_calendar(NOTES, calendar)
    try:
        ruled = rule_on_text(control(reading, catalog, notes, engine.name, NOW), engine.name, catalog, Policy())
        assert ruled.statement is not None
        with pytest.raises(Exception, match="no table of the time zone Australia/Eucla"):
            sandbox.run(ruled.statement)
    finally:
        sandbox.close()


def replace_calendar(notes: Notes, calendar: Calendar) -> Notes:
    return notes.model_copy(update={"calendar": calendar})


def test_nothing_is_converted_where_nobody_says_so(catalog: Catalog, engine: Engine) -> None:
    reading = Reading.model_validate(
        {"rows": "crossing", "figures": [{"figure": "count"}], "per": [{"column": "crossing.told_at", "unit": "month"}]}
    )
    plain = str(control(reading, catalog, Notes.model_validate({"tables": TABLE}), engine.name, NOW))
    assert not {"ZONE", "CONVERT_TZ", "localtime"} & set(plain.replace("(", " ").replace("'", " ").split())
    (tree,) = parse(plain, engine.name)
    assert as_people_see_it(tree, catalog, Calendar()) is tree
    # In local time, too, what the engine itself keeps as an instant has to be converted.
    kept = Notes.model_validate({"tables": TABLE, "calendar": {"zone": ZONE}})
    text = str(control(reading, catalog, kept, engine.name, NOW))
    assert (ZONE in text) == (engine.name != "sqlite")


def test_half_a_conversion_is_not_read_as_a_whole_one(catalog: Catalog, engine: Engine) -> None:
    wrong = {
        "sqlite": ["DATETIME(left_at, 'utc')", "DATETIME(left_at, 'localtime', '+1 hours')"],
        "postgresql": ["left_at AT TIME ZONE 'UTC'", f"left_at AT TIME ZONE '{ZONE}'", "told_at AT TIME ZONE 'UTC'"],
        "mariadb": [f"CONVERT_TZ(left_at, '{ZONE}', 'UTC')", "CONVERT_TZ(left_at, 'UTC', 'UTC')"],
    }[engine.name]
    for part in wrong:
        (tree,) = parse(f"SELECT id FROM crossing WHERE {part} >= '2026-08-01'", engine.name)
        assert as_people_see_it(tree, catalog, NOTES.calendar) == tree, part
