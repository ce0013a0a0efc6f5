"""Crossings of a place with summer time, in databases that hold UTC; and its calendar as the Python library has it."""

from __future__ import annotations

import datetime as dt
import random
import sqlite3
import subprocess
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from zoneinfo import ZoneInfo

import pytest

from harquel.core.domain.notes import Notes
from harquel.core.engines import Engine, engine_for
from harquel.core.engines.sqlite import SqliteEngine

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


@contextmanager
def crossings(request: pytest.FixtureRequest, folder: Path, database: str) -> Iterator[Engine]:
    """A database of the engine that the fixture is asked for."""
    plain, instant, day = TYPES[request.param]
    made = [
        f"CREATE TABLE crossing (id INTEGER PRIMARY KEY, vessel VARCHAR(40) NOT NULL, left_at {plain} NOT NULL, "
        f"told_at {instant}, sails_on {day} NOT NULL, passengers INTEGER NOT NULL)"
    ]
    values = [f"({n}, '{v}', '{at}', '{told}', '{on}', {p})" for n, v, at, told, on, p in ROWS]
    made.append(f"INSERT INTO crossing VALUES {', '.join(values)}")
    if request.param == "sqlite":
        with sqlite3.connect(folder / "zones.db") as connection:
            for statement in made:
                connection.execute(statement)
        connection.close()
        yield SqliteEngine(folder / "zones.db")
        return
    server = request.getfixturevalue(request.param)
    server.run(f"CREATE DATABASE {database}")
    if request.param == "mariadb":
        ((known,),) = server.run(f"SELECT CONVERT_TZ('2026-01-01', 'UTC', '{ZONE}')")
        for zone in () if known is not None else ("UTC", ZONE):
            filled = ["mariadb-tzinfo-to-sql", f"/usr/share/zoneinfo/{zone}", zone]
            text = subprocess.run(filled, capture_output=True, text=True, check=True).stdout
            server.run(*(part for part in text.split(";") if part.strip()), database="mysql")
        made.insert(0, "SET time_zone = '+00:00'")
    else:
        made.insert(0, "SET TIME ZONE 'UTC'")
    server.run(*made, database=database)
    found = engine_for(server.url(database), folder)
    yield found
    found.close()
