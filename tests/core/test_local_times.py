"""Times as clocks show them where people are, of databases that hold UTC: weeks from Sunday, a fiscal year from April,
a zone with summer time; on the real engines, held against the calendar of the Python library.
"""

from __future__ import annotations

import datetime as dt
import json
import random
import sqlite3
import subprocess
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from pydantic import ValidationError

from harquel.core.briefing import Describer, TokenGauge
from harquel.core.calendar import Calendar
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.engines import Engine, engine_for
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.guard import rule_on_text
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import Completion, Message, ModelProfile
from harquel.core.reading import Reading, control
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.scanning import CatalogKeeper
from harquel.core.sql.local_time import as_people_see_it
from harquel.core.sql.tree import parse, render
from harquel.testing.sources import ask
from tests.conftest import servers

pytestmark = servers
ZONE = "Europe/Berlin"
HERE = ZoneInfo(ZONE)
CALENDAR = {
    "zone": ZONE, "stored": "utc", "week_begins": "sunday", "fiscal_year": {"begins": "april", "named_by": "end"},
}  # fmt: skip
TABLE = {"crossing": {"when": "left_at", "columns": {"passengers": {"synonyms": ["people"]}}}}
NOTES = Notes.model_validate({"calendar": CALENDAR, "tables": TABLE})
PLAIN = Notes.model_validate({"calendar": {**CALENDAR, "zone": "UTC", "stored": "local"}, "tables": TABLE})
NOW = dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC)
TYPES = {
    "sqlite": ("DATETIME", "DATETIME", "DATE"), "postgresql": ("TIMESTAMP", "TIMESTAMPTZ", "DATE"),
    "mariadb": ("DATETIME", "TIMESTAMP NULL", "DATE"),
}  # fmt: skip


def rows() -> list[tuple[int, str, dt.datetime, dt.datetime, dt.date, int]]:
    """Crossings at all hours of three years, many around the nights in which clocks change and years begin."""
    chance = random.Random(7)
    nights = [dt.datetime(2026, 3, 28, 20), dt.datetime(2026, 10, 24, 20), dt.datetime(2025, 12, 31, 20),
              dt.datetime(2026, 3, 31, 20), dt.datetime(2026, 7, 31, 20), dt.datetime(2026, 8, 31, 20)]  # fmt: skip
    made = []
    for number in range(900):
        at = (
            chance.choice(nights) if number % 2 else dt.datetime(2024, 1, 1) + dt.timedelta(days=chance.randrange(1090))
        )
        left = at + dt.timedelta(minutes=chance.randrange(600))
        vessel = chance.choice(["Aurelie", "Morrow Tide", "Brightwater"])
        day = left.replace(tzinfo=dt.UTC).astimezone(HERE).date()
        made.append((number, vessel, left, left + dt.timedelta(minutes=chance.randrange(20, 300)), day, number % 90))
    return made


ROWS = rows()


def local(at: dt.datetime) -> dt.datetime:
    return at.replace(tzinfo=dt.UTC).astimezone(HERE).replace(tzinfo=None)


@pytest.fixture(scope="module", params=["sqlite", "postgresql", "mariadb"])
def engine(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Engine]:
    plain, instant, day = TYPES[request.param]
    made = [
        f"CREATE TABLE crossing (id INTEGER PRIMARY KEY, vessel VARCHAR(40) NOT NULL, left_at {plain} NOT NULL, "
        f"told_at {instant}, sails_on {day} NOT NULL, passengers INTEGER NOT NULL)"
    ]
    values = [f"({n}, '{v}', '{at}', '{told}', '{on}', {p})" for n, v, at, told, on, p in ROWS]
    made.append(f"INSERT INTO crossing VALUES {', '.join(values)}")
    folder = tmp_path_factory.mktemp("zones")
    if request.param == "sqlite":
        with sqlite3.connect(folder / "zones.db") as connection:
            for statement in made:
                connection.execute(statement)
        connection.close()
        yield SqliteEngine(folder / "zones.db")
        return
    server = request.getfixturevalue(request.param)
    server.run("CREATE DATABASE zones")
    if request.param == "mariadb":
        zone = ["mariadb-tzinfo-to-sql", f"/usr/share/zoneinfo/{ZONE}", ZONE]
        loaded = subprocess.run(zone, capture_output=True, text=True, check=True).stdout
        utc = subprocess.run([zone[0], "/usr/share/zoneinfo/UTC", "UTC"], capture_output=True, text=True, check=True)
        for text in (utc.stdout, loaded):
            server.run(*(s for s in text.split(";") if s.strip()), database="mysql")
        made.insert(0, "SET time_zone = '+00:00'")
    else:
        made.insert(0, "SET TIME ZONE 'UTC'")
    server.run(*made, database="zones")
    found = engine_for(server.url("zones"), folder)
    yield found
    found.close()


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


def begun(day: dt.date) -> dt.date:
    """The Sunday before."""
    return day - dt.timedelta(days=(day.weekday() + 1) % 7)


def fiscal(at: dt.datetime) -> tuple[int, int]:
    return at.year - (at.month < 4), (at.month - 4) % 12 // 3 + 1


UNITS: dict[str, Callable[[dt.datetime], object]] = {
    "year": lambda at: f"{at:%Y}", "month": lambda at: f"{at:%Y-%m}", "day": lambda at: f"{at:%Y-%m-%d}",
    "quarter": lambda at: f"{at.year}-Q{(at.month + 2) // 3}", "hour": lambda at: at.hour,
    "weekday": lambda at: (at.weekday() + 1) % 7, "week": lambda at: begun(at.date()).isoformat(),
    "fiscal year": lambda at: f"{fiscal(at)[0]}/{(fiscal(at)[0] + 1) % 100:02}",
    "fiscal quarter": lambda at: f"{fiscal(at)[0]}/{(fiscal(at)[0] + 1) % 100:02}-Q{fiscal(at)[1]}",
}  # fmt: skip


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


class Both:
    """Reads a question and drafts for it, as it is told to."""

    profile = ModelProfile("http://scripted.example", "both")

    def __init__(self, reading: dict[str, Any], sql: str) -> None:
        self.reading, self.sql = reading, sql
        self.told: list[Message] = []

    def complete(self, messages: list[Message], **_: Any) -> Completion:
        reads = "You read a question" in messages[0]["content"]
        self.told = list(messages)
        said = self.reading if reads else {"sql": self.sql, "explanation": "as asked"}
        return Completion(json.dumps(said), 100, 20)


DRAFTS = {
    "sqlite": "strftime('%Y-%m', datetime(left_at, 'localtime'))",
    "postgresql": "to_char((left_at AT TIME ZONE 'UTC') AT TIME ZONE 'Europe/Berlin', 'YYYY-MM')",
    "mariadb": "DATE_FORMAT(CONVERT_TZ(left_at, 'UTC', 'Europe/Berlin'), '%Y-%m')",
}
NAIVE = {
    "sqlite": "strftime('%Y-%m', left_at)", "postgresql": "to_char(left_at, 'YYYY-MM')",
    "mariadb": "DATE_FORMAT(left_at, '%Y-%m')",
}  # fmt: skip


@pytest.fixture(scope="module")
def answered(engine: Engine) -> Iterator[Callable[..., Inquiry]]:
    keeper = CatalogKeeper(engine, Policy)
    sandbox = Sandbox(engine, SandboxLimits(20, 1000, 1_000_000, 256 * 2**20), size=2)
    sandbox.calendar = NOTES.calendar

    def answer(question: str, reading: dict[str, Any], sql: str) -> Inquiry:
        model = Both({"rows": "crossing", **reading}, sql)
        source = Source(
            "pier", engine.name, keeper.current, keeper.refreshed, Describer(Policy(), NOTES), tuple, engine.grant,
            sandbox, model, TokenGauge(), reader=model,
        )  # fmt: skip
        found = ask(source, question)
        told = model.told[1]["content"]
        assert "## Now\n2026-09-14 12:00:00 (Monday)" in told
        assert "as clocks show them in Europe/Berlin" in told
        assert "A week begins on Sunday." in told
        assert "fiscal year 2026 is from 2025-04-01 up to, but not including, 2026-04-01" in told
        return found

    yield answer
    sandbox.close()


def counted(when: Callable[[dt.datetime], bool]) -> int:
    return sum(when(local(row[2])) for row in ROWS)


def test_from_a_question_in_a_zone_to_its_sentence(engine: Engine, answered: Callable[..., Inquiry]) -> None:
    question = "How many crossings were there in August 2026?"
    reading = {
        "figures": [{"figure": "count", "words": "How many crossings"}], "words": "crossings",
        "during": [{"from": "2026-08-01", "until": "2026-09-01", "words": "in August 2026"}], "idle": ["were there"],
    }  # fmt: skip
    found = answered(question, reading, f"SELECT COUNT(*) FROM crossing WHERE {DRAFTS[engine.name]} = '2026-08'")
    assert found.answer is not None, found.problem
    august = counted(lambda at: (at.year, at.month) == (2026, 8))
    assert (found.answer.text, found.trust) == (f"Crossings in August 2026: {august}.", "clear")
    edges = "left_at >= '2026-07-31 22:00:00' AND left_at < '2026-08-31 22:00:00'"
    other = answered(question, reading, f"SELECT COUNT(*) FROM crossing WHERE {edges}")
    assert other.answer is not None
    assert (other.answer.text, other.trust) == (found.answer.text, "clear")
    # The condition is read to people in their time, not in that of the database.
    only = [line.text for line in other.answer.lines if line.label == "Only"]
    assert only == ["left at in August 2026"]
    # Whoever forgets the zone is not believed.
    naive = answered(question, reading, f"SELECT COUNT(*) FROM crossing WHERE {NAIVE[engine.name]} = '2026-08'")
    assert naive.answer is not None
    assert (naive.trust, [c.rule for c in naive.answer.caveats]) == ("caution", ["second-differs"])
    assert str(august) in naive.answer.caveats[0].message


def test_from_a_question_for_weeks_to_its_sentence(engine: Engine, answered: Callable[..., Inquiry]) -> None:
    reading: dict[str, Any] = {
        "figures": [{"figure": "count", "words": "How many crossings"}], "words": "crossings",
        "during": [{"from": "2026-08-30", "until": "2026-09-06", "words": "in the week of 1 September 2026"}],
        "idle": ["were there"],
    }  # fmt: skip
    edges = "left_at >= '2026-08-29 22:00:00' AND left_at < '2026-09-05 22:00:00'"
    found = answered(
        "How many crossings were there in the week of 1 September 2026?", reading,
        f"SELECT COUNT(*) FROM crossing WHERE {edges}",
    )  # fmt: skip
    assert found.answer is not None, found.problem
    week = counted(lambda at: begun(at.date()) == dt.date(2026, 8, 30))
    assert found.answer.text == f"Crossings in the week of 30 August 2026: {week}."
    # A reading of that week as one from Monday is sent back.
    monday = {**reading, "during": [{**reading["during"][0], "from": "2026-08-31", "until": "2026-09-07"}]}
    sent_back = answered(
        "How many crossings were there in the week of 1 September 2026?", monday,
        f"SELECT COUNT(*) FROM crossing WHERE {edges}",
    )  # fmt: skip
    assert (sent_back.trust, [c.rule for c in sent_back.answer.caveats] if sent_back.answer else []) == (
        "caution", ["unconfirmed"]
    )  # fmt: skip


def test_from_a_question_for_fiscal_years_to_its_sentence_and_its_chart(
    engine: Engine, answered: Callable[..., Inquiry]
) -> None:
    one = {
        "figures": [{"figure": "count", "words": "How many crossings"}], "words": "crossings",
        "during": [{"from": "2026-04-01", "until": "2027-04-01", "words": "this fiscal year"}], "idle": ["were there"],
    }  # fmt: skip
    found = answered(
        "How many crossings were there this fiscal year?", one,
        "SELECT COUNT(*) FROM crossing WHERE left_at >= '2026-03-31 22:00:00'",
    )  # fmt: skip
    assert found.answer is not None, found.problem
    begins = dt.datetime(2026, 4, 1)
    assert found.answer.text == (f"Crossings in the fiscal year 2026/27 so far: {counted(lambda at: at >= begins)}.")
    trend = {
        "figures": [{"figure": "sum", "of": "crossing.passengers", "words": "people crossed"}], "words": "people",
        "per": [{"column": "crossing.left_at", "unit": "fiscal year", "words": "per fiscal year"}],
        "idle": ["How many"],
    }  # fmt: skip
    at = {
        "sqlite": "date(datetime(left_at, 'localtime'), 'start of month', '-3 months')",
        "postgresql": "((left_at AT TIME ZONE 'UTC') AT TIME ZONE 'Europe/Berlin') - INTERVAL '3 months'",
        "mariadb": "DATE_SUB(DATE_FORMAT(CONVERT_TZ(left_at, 'UTC', 'Europe/Berlin'), '%Y-%m-01'), INTERVAL 3 MONTH)",
    }[engine.name]
    year = {"sqlite": f"CAST(strftime('%Y', {at}) AS INTEGER)", "postgresql": f"EXTRACT(YEAR FROM {at})",
            "mariadb": f"YEAR({at})"}[engine.name]  # fmt: skip
    both = f"CONCAT({year}, '/', {year} - 1999)"
    named = f"{year} || '/' || substr({year} + 1, 3, 2)" if engine.name == "sqlite" else both
    sums: Counter[str] = Counter()
    for _, _, left, _, _, passengers in ROWS:
        sums[str(UNITS["fiscal year"](local(left)))] += passengers
    per_year = answered(
        "How many people crossed per fiscal year?", trend,
        f"SELECT {named} AS fiscal_year, SUM(passengers) AS people FROM crossing GROUP BY 1 ORDER BY 1",
    )  # fmt: skip
    assert per_year.answer is not None, per_year.problem
    assert {row[0]: int(row[1]) for row in per_year.answer.table.rows} == sums
    assert "2026/27 has not ended" in per_year.answer.text, (per_year.second_opinion, per_year.answer.caveats)
    chart = per_year.answer.chart
    assert chart is not None
    assert (chart.kind, chart.under_way, chart.columns[0].span) == ("line", True, "fiscal year")


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
