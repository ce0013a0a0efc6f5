"""The demo world on SQLite, PostgreSQL and MariaDB: the same questions give the same answers."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from harquel.core.answers.agreement import agree
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.person import Person
from harquel.core.domain.result import Result
from harquel.core.engines import Engine, engine_for
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.guard import rule_on_text
from harquel.core.inquiry.source import Source
from harquel.core.reading import Reading, control
from harquel.demo.load_servers import READER, READER_PASSWORD
from harquel.testing.sources import NOW, agrees, ask, engine_source, expected
from tests.conftest import DATA, servers

pytestmark = servers
CASES: list[dict[str, Any]] = read_yaml((DATA / "questions.yaml").read_text())
READINGS: list[dict[str, Any]] = read_yaml((DATA / "readings.yaml").read_text())


@pytest.fixture(scope="module", params=["sqlite", "postgresql", "mariadb"])
def engine(request: pytest.FixtureRequest, ferries: Path) -> Iterator[Engine]:
    if request.param == "sqlite":
        made: Engine = SqliteEngine(ferries)
    else:
        server = request.getfixturevalue(request.param)
        made = engine_for(server.url("ferries", READER, READER_PASSWORD), ferries.parent)
    yield made
    made.close()


@pytest.fixture(scope="module")
def source(engine: Engine, model_url: str) -> Iterator[Source]:
    made, _ = engine_source(engine, model_url)
    yield made
    made.sandbox.close()


@pytest.mark.parametrize("wording", ["question", "rewording"])
@pytest.mark.parametrize("case", CASES, ids=[c["number"] for c in CASES])
def test_the_answer_equals_the_hand_written_query_and_comes_out_in_two_ways(
    case: dict[str, Any], wording: str, source: Source, ferries: Path
) -> None:
    """The model that drafts reads, too, in a call of its own."""
    inquiry = ask(replace(source, reader=source.model), case[wording])
    assert inquiry.outcome == "answered", (inquiry.problem, inquiry.attempts)
    assert agrees(inquiry, expected(ferries, case["sql"]), case), inquiry.answer
    assert inquiry.answer is not None
    # The months of one year against those of another have no place in the form.
    left = ["unconfirmed"] if case["number"] == 8 else []
    assert [c.rule for c in inquiry.answer.caveats] == left, inquiry.second_opinion


@pytest.mark.parametrize("case", READINGS, ids=[c["what"] for c in READINGS])
def test_a_control_gives_the_rows_of_the_hand_written_query(
    case: dict[str, Any], source: Source, ferries: Path
) -> None:
    whole = source.catalog(lambda: False)
    visible = source.describer.of(whole, Person()).catalog
    sql = control(Reading.model_validate(case["reading"]), visible, source.notes, source.engine, NOW)
    ruled = rule_on_text(sql, source.engine, visible, source.policy, Person(), whole)
    assert ruled.statement is not None, (sql, ruled.findings)
    got = source.sandbox.run(ruled.statement)
    wanted = [list(row) for row in expected(ferries, case["right"])]
    assert wanted, "a case that finds nothing shows nothing"
    assert agree(got, Result(got.columns, got.types, wanted, None, 0, 0)), (sql, got.rows[:3], wanted[:3])
