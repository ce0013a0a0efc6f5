"""The simulated model: what it reads, how it counts time, how it behaves, and that it cheats nowhere."""

from __future__ import annotations

import ast
import datetime as dt
import json
from pathlib import Path

import httpx
import pytest

import harquel.standin
from harquel.standin.model import reply_to
from harquel.standin.model.periods import find_periods
from harquel.standin.model.tempers import SLIPS, Temper, chance, temper_of
from harquel.standin.model.words import stem, tokens

NOW = dt.datetime(2026, 9, 14, 10)
PERIODS = [
    ("in August 2026", "2026-08-01", "2026-09-01"),
    ("in Aug", "2026-08-01", "2026-09-01"),
    ("in November", "2025-11-01", "2025-12-01"),
    ("in 2025", "2025-01-01", "2026-01-01"),
    ("last month", "2026-08-01", "2026-09-01"),
    ("last quarter", "2026-04-01", "2026-07-01"),
    ("last year", "2025-01-01", "2026-01-01"),
    ("last week", "2026-09-07", "2026-09-14"),
    ("this year", "2026-01-01", "2026-09-14 10:00"),
    ("this month so far", "2026-09-01", "2026-09-14 10:00"),
    ("Q2 2026", "2026-04-01", "2026-07-01"),
    ("the second quarter of 2026", "2026-04-01", "2026-07-01"),
    ("the first half of 2026", "2026-01-01", "2026-07-01"),
    ("on 15 August 2026", "2026-08-15", "2026-08-16"),
    ("on August 15 2026", "2026-08-15", "2026-08-16"),
    ("on 2026-08-15", "2026-08-15", "2026-08-16"),
    ("yesterday", "2026-09-13", "2026-09-14"),
    ("in the last 7 days", "2026-09-07 10:00", "2026-09-14 10:00"),
    ("since June 2026", "2026-06-01", None),
    ("before 2026", None, "2026-01-01"),
    ("after March 2026", "2026-04-01", None),
]


def instant(text: str | None) -> dt.datetime | None:
    return dt.datetime.fromisoformat(text) if text else None


@pytest.mark.parametrize(("text", "start", "end"), PERIODS)
def test_periods(text: str, start: str | None, end: str | None) -> None:
    ((period, _, _),) = find_periods(tokens(text), NOW)
    assert (period.start, period.end) == (instant(start), instant(end))


def test_an_ellipsis_takes_the_unit_said_before() -> None:
    found = [p.label for p, _, _ in find_periods(tokens("passengers this year against last"), NOW)]
    assert found == ["this year", "last year"]


@pytest.mark.parametrize(
    ("word", "root"),
    [("ferries", "ferry"), ("crosses", "cross"), ("buses", "buse"), ("vessel's", "vessel"), ("glass", "glass")],
)
def test_stems(word: str, root: str) -> None:
    assert stem(word) == root


SCHEMA = """## Now
2026-09-14 10:00:00 (Monday)

## Schema
-- A lantern: a light on a quay.
-- dated by: lit_on
CREATE TABLE lantern (
  id INTEGER PRIMARY KEY,
  colour TEXT, -- values: 'green', 'deep red'
  brightness_lm REAL, -- unit: lumens
  lit_on DATE,
  amount INTEGER
);

## Question
{question}"""


def sql(question: str) -> str:
    messages = [{"role": "user", "content": SCHEMA.format(question=question)}]
    reply = json.loads(reply_to(messages, "careful", Temper("careful")).text)
    return str(reply.get("sql") or reply["cannot"])


QUESTIONS = {
    "How many lanterns are there?": "SELECT COUNT(*) AS lantern_count FROM lantern",
    "How many deep red lanterns were lit in 2025?": (
        "SELECT COUNT(*) AS lantern_count FROM lantern WHERE lantern.colour = 'deep red'"
        " AND lantern.lit_on >= '2025-01-01' AND lantern.lit_on < '2026-01-01'"
    ),
    "Average brightness by colour": (
        "SELECT lantern.colour, AVG(lantern.brightness_lm) AS average_brightness_lm FROM lantern"
        " GROUP BY lantern.colour ORDER BY lantern.colour"
    ),
    "How many lanterns with brightness above 100?": (
        "SELECT COUNT(*) AS lantern_count FROM lantern WHERE lantern.brightness_lm > 100"
    ),
    "Total amount of lanterns": "SELECT SUM(lantern.amount) AS total_amount FROM lantern",
    "How many trams are there?": "not-in-data",
    "Remove all lanterns": "DELETE FROM lantern",
}


@pytest.mark.parametrize("question", QUESTIONS)
def test_it_derives_sql_for_a_schema_it_never_saw(question: str) -> None:
    assert sql(question) == QUESTIONS[question]


def test_it_knows_no_name_of_the_demo_world_and_opens_no_database() -> None:
    """Honest: the schema's own words may stand in the prompt only, and no driver is at hand."""
    folder = Path(harquel.standin.__file__).parent / "model"
    for path in folder.rglob("*.py"):
        source = path.read_text()
        for word in ("Gullspire", "Pell", "sailing", "booking", "ferr", "vessel", "harbour", "route"):
            assert word not in source.lower(), f"{path.name} knows {word}"
        imported = {n.name for node in ast.walk(ast.parse(source)) if isinstance(node, ast.Import) for n in node.names}
        assert not imported & {"sqlite3", "sqlalchemy", "psycopg", "pymysql"}
    assert sum(len(p.read_text().splitlines()) for p in folder.rglob("*.py")) <= 3500


def test_chance_depends_on_the_messages_alone() -> None:
    messages = [{"role": "user", "content": "x"}]
    assert chance("a", messages, "s") == chance("a", [dict(m) for m in messages], "s")
    draws = [chance("a", [{"role": "user", "content": str(n)}], "s") for n in range(400)]
    assert 0.2 < sum(d < 0.3 for d in draws) / 400 < 0.4


@pytest.mark.parametrize(
    "name", ["careful", "flaky", "stubborn", "careless-0.3", *(f"careless-1.0-{s}" for s in SLIPS)]
)
def test_known_tempers(name: str) -> None:
    assert temper_of(name) is not None


@pytest.mark.parametrize("name", ["", "gpt", "careless", "careless-x", "stubborn-nothing", "careful-0.3"])
def test_unknown_models(name: str) -> None:
    assert temper_of(name) is None


def test_the_server_speaks_the_protocol_whole_and_streamed(model_url: str) -> None:
    body = {"model": "careful", "messages": [{"role": "user", "content": SCHEMA.format(question="How many lanterns?")}]}
    whole = httpx.post(f"{model_url}/chat/completions", json=body).json()
    text = whole["choices"][0]["message"]["content"]
    assert "COUNT(*)" in text
    assert whole["usage"]["prompt_tokens"] > 0
    lines = httpx.post(f"{model_url}/chat/completions", json={**body, "stream": True}).text.split("\n\n")
    chunks = [json.loads(line[6:]) for line in lines if line.startswith("data: {")]
    assert "".join(c["choices"][0]["delta"].get("content", "") for c in chunks if c["choices"]) == text
    assert lines[-2] == "data: [DONE]"


@pytest.mark.parametrize(
    ("body", "status"), [({"model": "nobody", "messages": []}, 404), ({"messages": []}, 400), ([], 400)]
)
def test_the_server_refuses_what_it_cannot_read(model_url: str, body: object, status: int) -> None:
    assert httpx.post(f"{model_url}/chat/completions", json=body).status_code == status
