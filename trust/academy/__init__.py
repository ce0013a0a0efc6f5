"""A third schema for the measure of trust, as one meets it on the first day: nobody has written a note about it."""

from __future__ import annotations

import datetime as dt
import random
import sqlite3
from pathlib import Path

FOLDER = Path(__file__).parent
_GIVEN = ("Ada", "Bram", "Cleo", "Dorin", "Edda", "Falk", "Greta", "Hob", "Isa", "Jory", "Kit", "Lio", "Mara", "Nell")
_FAMILY = ("Tarnwick", "Sallow", "Quickstep", "Fernhollow", "Brackley", "Moorgate", "Windle", "Oakum", "Pennant")
_ISLANDS = ("Marrow", "Carrow", "Oar", "Gull")
_EMPLOYERS = ("Marrowick Ferries", "Harbour Office", "Pilot Guild", None)
_ROOMS = (("A1", "Old Customs House", 24, 0), ("A2", "Old Customs House", 16, 0), ("Bridge", "Tower", 8, 1),
          ("Engine", "Tower", 10, 1), ("Hall", "Boathouse", 60, 0))  # fmt: skip
_COURSES = (
    ("NAV1", "Coastal navigation", "basic", 4, 320, 0), ("NAV2", "Night navigation", "advanced", 6, 540.5, 0),
    ("RAD1", "Radio operation", "basic", 2, 150, 0), ("SAF1", "Safety at sea", "basic", 3, 210, 0),
    ("SAF2", "Crowd management", "advanced", 3, 260, 0), ("ENG1", "Diesel engines", "basic", 5, 410, 0),
    ("ENG2", "Electric propulsion", "advanced", 6, 690.75, 0), ("MAS1", "Master of a ferry", "master", 12, 1850, 0),
    ("TEL1", "Telegraphy", "basic", 2, 90, 1), ("ICE1", "Ice pilotage", "master", 8, 1240, 0),
)  # fmt: skip
_REQUIRED = (("NAV2", "NAV1"), ("SAF2", "SAF1"), ("ENG2", "ENG1"), ("MAS1", "NAV2"), ("MAS1", "SAF2"), ("ICE1", "NAV2"))


def _status(run: int, starts: dt.date, ends: dt.date) -> str:
    today = dt.date(2026, 9, 14)
    if starts > today:
        return "planned"
    if ends >= today:
        return "running"
    return "called off" if run % 11 == 0 else "finished"


def _examine(db: sqlite3.Connection, chance: random.Random, enrolment: int, completed: bool, ends: dt.date) -> None:
    tries = chance.choice((1, 1, 1, 2))
    for attempt in range(1, tries + 1):
        passed = attempt == tries and completed
        points = chance.uniform(50, 100) if passed else chance.uniform(10, 50)
        taken = ends + dt.timedelta(days=3 + 20 * attempt)
        row = (enrolment, attempt, str(taken), round(points, 1), passed)
        db.execute("INSERT INTO exam_result VALUES (?,?,?,?,?)", row)


def _charge(
    chance: random.Random, code: str, discount: int | None, starts: dt.date
) -> tuple[str, str, str | None, float]:
    fee = next(c[4] for c in _COURSES if c[0] == code) * (100 - (discount or 0)) / 100
    due = starts + dt.timedelta(days=30)
    paid = None if chance.random() < 0.12 else str(due + dt.timedelta(days=chance.randrange(-25, 15)))
    return str(starts), str(due), paid, round(fee, 2)


def load(path: Path) -> None:
    """Makes the database, always the same."""
    chance = random.Random(11)
    with sqlite3.connect(path) as db:
        db.executescript((FOLDER / "schema.sql").read_text("utf-8"))
        row: tuple[object, ...]
        for n in range(1, 241):
            born = dt.date(1962, 1, 1) + dt.timedelta(days=chance.randrange(15_500))
            row = (n, chance.choice(_GIVEN), chance.choice(_FAMILY), chance.choice(_ISLANDS), str(born),
                   chance.choice(_EMPLOYERS))  # fmt: skip
            db.execute("INSERT INTO person VALUES (?,?,?,?,?,?)", row)
        db.executemany("INSERT INTO room (label, building, seats, has_simulator) VALUES (?,?,?,?)", _ROOMS)
        db.executemany("INSERT INTO course VALUES (?,?,?,?,?,?)", _COURSES)
        db.executemany("INSERT INTO course_requirement VALUES (?,?)", _REQUIRED)
        for n in range(1, 13):
            left = f"2025-0{n - 3}-30" if n in (5, 9) else None
            db.execute(
                "INSERT INTO teacher VALUES (?,?,?,?,?)", (n, n * 7, f"20{9 + n:02}-02-01", left, 38 + 3.5 * (n % 5))
            )
        enrolment = invoice = 0
        for run in range(1, 151):
            starts = dt.date(2024, 1, 8) + dt.timedelta(days=7 * run + run % 3)
            ends = starts + dt.timedelta(days=chance.choice((4, 11, 18)))
            code = chance.choice([c[0] for c in _COURSES if c[0] != "TEL1" or run < 40])
            status = _status(run, starts, ends)
            places = chance.choice((8, 12, 16, 20))
            room = None if run % 17 == 0 else 1 + chance.randrange(5)
            row = (run, code, room, str(starts), str(ends), places, status)
            db.execute("INSERT INTO course_run VALUES (?,?,?,?,?,?,?)", row)
            for teacher in chance.sample(range(1, 12), chance.choice((1, 1, 2))):
                db.execute("INSERT INTO teaching VALUES (?,?,?)", (run, teacher, chance.randrange(6, 40)))
            for person in chance.sample(range(1, 231), chance.randrange(3, places + 1)):
                enrolment += 1
                enrolled = dt.datetime.combine(starts, dt.time(8)) - dt.timedelta(minutes=chance.randrange(90_000))
                ended = chance.choices(("completed", "failed", "withdrawn"), (15, 3, 2))[0]
                state = ended if status == "finished" else "withdrawn" if status == "called off" else "active"
                discount = chance.choice((None, None, 10, 25))
                db.execute(
                    "INSERT INTO enrolment VALUES (?,?,?,?,?,?)",
                    (enrolment, run, person, str(enrolled), state, discount),
                )
                if state in ("completed", "failed"):
                    _examine(db, chance, enrolment, state == "completed", ends)
                if state == "completed":
                    issued = ends + dt.timedelta(days=45)
                    expires = None if code.startswith("ENG") else str(issued.replace(year=issued.year + 2, day=1))
                    row = (f"C-{enrolment:05}", person, code, str(issued), expires)
                    db.execute("INSERT INTO certificate VALUES (?,?,?,?,?)", row)
                if state != "withdrawn":
                    invoice += 1
                    row = (f"I-{invoice:05}", enrolment, *_charge(chance, code, discount, starts))
                    db.execute("INSERT INTO invoice VALUES (?,?,?,?,?,?)", row)
                    for day in range(min((ends - starts).days, 5)):
                        row = (run, person, str(starts + dt.timedelta(days=day)), chance.random() < 0.9)
                        db.execute("INSERT INTO attendance VALUES (?,?,?,?)", row)
    db.close()
