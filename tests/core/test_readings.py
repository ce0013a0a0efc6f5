"""Questions that can be read in two ways are told apart from those in which something decides."""

from __future__ import annotations

import datetime as dt
import sqlite3
from pathlib import Path

import pytest
from trust.cases import cases

from harquel.core.briefing import CatalogIndex
from harquel.core.domain.examples import Example
from harquel.core.domain.notes import Notes
from harquel.core.review import read_question
from harquel.core.review.readings import OpenPoint, open_point
from harquel.testing.sources import demo_notes, demo_policy, scanned

NOW = dt.datetime(2026, 9, 14, 10)
LANDINGS = """
CREATE TABLE landing (id INTEGER PRIMARY KEY, name TEXT NOT NULL, code TEXT NOT NULL UNIQUE, island TEXT NOT NULL,
  depth_m REAL);
CREATE TABLE charter (id INTEGER PRIMARY KEY, landing_id INTEGER NOT NULL REFERENCES landing (id),
  requested_on DATE NOT NULL, sails_on DATE NOT NULL, paid_on DATE, updated_at TIMESTAMP NOT NULL, state TEXT NOT NULL);
CREATE TABLE permit (id INTEGER PRIMARY KEY, landing_id INTEGER NOT NULL REFERENCES landing (id),
  granted_on DATE NOT NULL, state TEXT NOT NULL);
CREATE TABLE old_permit (id INTEGER PRIMARY KEY, granted_on DATE NOT NULL, state TEXT NOT NULL);
INSERT INTO landing (name, code, island, depth_m) VALUES
  ('Old Quay', 'OQ', 'Carrow', 3.5), ('Old Quay', 'OD', 'Dunmarrow', 4), ('Reed Steps', 'RS', 'Carrow', 2),
  ('Long Slip', 'LS', 'Carrow', 2.5), ('Bell Stairs', 'BS', 'Oarsby', 6);
INSERT INTO charter (landing_id, requested_on, sails_on, updated_at, state) VALUES
  (1, '2026-06-01', '2026-07-01', '2026-07-02', 'waived'), (2, '2026-06-02', '2026-06-03', '2026-06-04', 'sailed');
INSERT INTO permit (landing_id, granted_on, state) VALUES (1, '2026-06-01', 'waived'), (2, '2026-06-01', 'granted');
INSERT INTO old_permit (granted_on, state) VALUES ('2019-06-01', 'waived'), ('2019-07-01', 'granted');
"""


@pytest.fixture(scope="module")
def landings(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("landings") / "landings.db"
    with sqlite3.connect(path) as connection:
        connection.executescript(LANDINGS)
    return path


def read(path: Path, question: str, notes: Notes | None = None, examples: tuple[Example, ...] = ()) -> OpenPoint | None:
    catalog = scanned(path)
    index = CatalogIndex.build(catalog, notes or Notes(), demo_policy())
    connection = sqlite3.connect(path)
    try:
        return open_point(
            read_question(question, NOW, index.meanings), index, examples,
            lambda sql: [list(r) for r in connection.execute(sql)],
        )  # fmt: skip
    finally:
        connection.close()


def labels(found: OpenPoint | None) -> list[str]:
    return [r.label for r in found.readings] if found is not None else []


@pytest.mark.parametrize(
    ("question", "readings"),
    [
        ("How many were waived?",
         ["A charter whose state is waived", "An old permit whose state is waived", "A permit whose state is waived"]),
        ("How many permits were waived?", []),
        ("How many charters were there in June 2026?", ["By requested on", "By sails on"]),
        ("How many charters were requested in June 2026?", []),
        ("How many charters are there?", []),
        ("How many permits were there in June 2026?", []),
        ("How deep is Old Quay?", ["Old Quay, code OQ", "Old Quay, code OD"]),
        ("How deep is Old Quay on Dunmarrow?", []),
        ("How deep is Old Quay OD?", []),
        ("How deep is Reed Steps?", []),
        ("Wie tief ist das Wasser am Anleger?", []),
    ],
)  # fmt: skip
def test_what_is_left_open(landings: Path, question: str, readings: list[str]) -> None:
    assert labels(read(landings, question)) == readings


JOBS = """
CREATE TABLE job_state (code TEXT PRIMARY KEY, label TEXT NOT NULL, place INTEGER);
CREATE TABLE job_kind (code TEXT PRIMARY KEY, label TEXT NOT NULL);
CREATE TABLE crane (id INTEGER PRIMARY KEY, name TEXT NOT NULL, yard TEXT NOT NULL);
CREATE TABLE job (id INTEGER PRIMARY KEY, crane_id INTEGER REFERENCES crane (id),
  kind TEXT NOT NULL REFERENCES job_kind (code), state TEXT NOT NULL REFERENCES job_state (code), hours REAL);
CREATE TABLE quote (id INTEGER PRIMARY KEY, job_id INTEGER REFERENCES job (id), state TEXT NOT NULL, amount REAL);
INSERT INTO job_state VALUES ('O', 'open', 1), ('D', 'done', 2), ('X', 'dropped', 3);
INSERT INTO job_kind VALUES ('REP', 'repair'), ('INS', 'inspection');
INSERT INTO crane VALUES (1, 'Northarm', 'North'), (2, 'Southarm', 'South');
INSERT INTO job VALUES (1, 1, 'REP', 'O', 2.5), (2, 2, 'INS', 'X', 1), (3, 1, 'INS', 'D', 4);
INSERT INTO quote VALUES (1, 1, 'sent', 900), (2, 2, 'dropped', 400), (3, 3, 'accepted', 70);
"""


@pytest.mark.parametrize(
    ("question", "readings"),
    [
        ("How many jobs were dropped?", []), ("How many quotes were dropped?", []),
        ("How many repairs were dropped?", []), ("How many open jobs are there?", []),
        ("Hours of inspection per crane", []), ("Jobs per state", []),
        ("How many were dropped?", ["A job whose state is dropped", "A quote whose state is dropped"]),
    ],
)  # fmt: skip
def test_a_list_of_codes_is_no_thing_of_its_own(tmp_path: Path, question: str, readings: list[str]) -> None:
    """Its words are said of what points at it: a job is dropped, not a job state."""
    path = tmp_path / "jobs.db"
    with sqlite3.connect(path) as connection:
        connection.executescript(JOBS)
    assert labels(read(path, question)) == readings


def test_notes_and_examples_decide(landings: Path) -> None:
    when = {"charter": "sails_on", "permit": "granted_on", "old_permit": "granted_on"}
    dated = Notes.model_validate({"tables": {t: {"when": column} for t, column in when.items()}})
    assert read(landings, "How many charters were there in June 2026?", dated) is None
    # The old permits end in 2019: they are not meant.
    assert labels(read(landings, "How many were waived in June 2026?", dated)) == [
        "A charter whose state is waived", "A permit whose state is waived",
    ]  # fmt: skip
    asked = "How many were waived?"
    known = Example(asked, "SELECT COUNT(*) FROM permit WHERE state = 'waived'", ("permit",))
    assert read(landings, asked, examples=(known,)) is None


def test_a_reading_added_to_the_question_decides_it(landings: Path) -> None:
    for question in ("How many were waived?", "How many charters were there in June 2026?", "How deep is Old Quay?"):
        found = read(landings, question)
        assert found is not None
        for reading in found.readings:
            assert read(landings, f"{question} ({reading.words})") is None, reading


def test_nothing_is_asked_back_about_the_questions_of_the_demo(ferries: Path) -> None:
    """Each of them has one right answer, whoever asks."""
    catalog = demo_policy().visible(scanned(ferries))
    index = CatalogIndex.build(catalog, demo_notes(), demo_policy())
    questions = {c.question for c in cases()}
    asked_back = [q for q in questions if open_point(read_question(q, NOW, index.meanings), index, ())]
    assert asked_back == []
    assert len(questions) > 150
