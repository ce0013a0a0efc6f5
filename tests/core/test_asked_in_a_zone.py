"""From a question to its sentence where people reckon by a zone, weeks from Sunday and a fiscal year from April."""

from __future__ import annotations

import datetime as dt
import json
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

import pytest

from harquel.core.briefing import Describer, TokenGauge
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.policy import Policy
from harquel.core.engines import Engine
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import Completion, Message, ModelProfile
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.scanning import CatalogKeeper
from harquel.testing.sources import ask
from tests.conftest import servers
from tests.core.zoned import NOTES, ROWS, UNITS, begun, crossings, local

pytestmark = servers


@pytest.fixture(scope="module", params=["sqlite", "postgresql", "mariadb"])
def engine(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Engine]:
    with crossings(request, tmp_path_factory.mktemp("zones"), "zones_asked") as made:
        yield made


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
