"""The way of a question with the simulated model over a real wire: right answers, and every other end."""

from __future__ import annotations

import dataclasses
import re
import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from harquel.core.curation.yaml_text import read_yaml
from harquel.core.llm.model import Completion, ModelProfile
from harquel.core.sandbox import Sandbox
from harquel.standin.model.tempers import SLIPS
from harquel.testing.sources import Recorder, agrees, ask, demo_notes, demo_policy, demo_sandbox, demo_source, expected
from tests.conftest import DATA

CASES: list[dict[str, Any]] = read_yaml((DATA / "questions.yaml").read_text())
NUMBERS = [c["number"] for c in CASES]
SEEN_BY_THE_GUARD = ("shortened-table", "invented-column", "prose", "two-statements", "write")


@pytest.fixture(scope="module")
def sandbox(ferries: Path) -> Iterator[Sandbox]:
    made = demo_sandbox(ferries)
    yield made
    made.close()


@pytest.mark.parametrize("case", CASES, ids=NUMBERS)
@pytest.mark.parametrize("wording", ["question", "rewording"])
def test_the_answer_equals_the_hand_written_query(
    case: dict[str, Any], wording: str, ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    inquiry = ask(demo_source(ferries, model_url, sandbox), case[wording])
    assert inquiry.outcome == "answered", inquiry.problem
    assert agrees(inquiry, expected(ferries, case["sql"]), case), inquiry.answer


def test_without_examples_at_least_nine_of_the_twelve_are_right(
    ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    source = demo_source(ferries, model_url, sandbox, examples=False)
    right = [c["number"] for c in CASES if agrees(ask(source, c["question"]), expected(ferries, c["sql"]), c)]
    assert len(right) >= 9, right


@pytest.mark.parametrize("case", CASES[::3], ids=NUMBERS[::3])
def test_with_the_tables_withheld_that_could_supply_it_there_is_no_answer(
    case: dict[str, Any], ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    source = demo_source(ferries, model_url, sandbox, policy=demo_policy(case["withhold"]))
    recorder = Recorder()
    inquiry = ask(source, case["question"], recorder)
    assert inquiry.outcome == "unanswerable"
    prompts = " ".join(e.texts["prompt"] for e in recorder.events if e.kind == "prompted")
    for table in case["withhold"]:
        assert f"CREATE TABLE {table} " not in prompts
        assert f"REFERENCES {table} " not in prompts


@pytest.mark.parametrize("table", ["sailing", "booking", "maintenance_order"])
def test_with_a_table_and_its_notes_renamed_the_answers_stay(
    table: str, ferries: Path, model_url: str, tmp_path: Path
) -> None:
    new, path = f"zq_{table[::-1]}", tmp_path / "renamed.db"
    shutil.copyfile(ferries, path)
    with sqlite3.connect(path) as connection:
        connection.execute(f'ALTER TABLE "{table}" RENAME TO "{new}"')
    connection.close()

    def rename(text: str) -> str:
        text = re.sub(rf"(?m)^  {table}:$", f"  {new}:", text)
        return re.sub(rf"(?m)\b{table}(?=\.\w)|(?<=of: ){table}$", new, text)

    sandbox = demo_sandbox(path)
    try:
        source = demo_source(path, model_url, sandbox, notes=demo_notes(rename), examples=False)
        wrong = [c["number"] for c in CASES if not agrees(ask(source, c["question"]), expected(ferries, c["sql"]), c)]
    finally:
        sandbox.close()
    assert not wrong


def test_an_example_that_resembles_the_question_is_adapted(ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    question = "How much was refunded in July 2026?"
    found = ask(demo_source(ferries, model_url, sandbox), question)
    assert found.answer is not None
    sql = "SELECT SUM(amount_eur) FROM payment WHERE refunded_at >= '2026-07-01' AND refunded_at < '2026-08-01'"
    assert found.answer.table.rows[0][0] == pytest.approx(expected(ferries, sql)[0][0])


def test_a_change_is_refused_and_names_the_policy_line(ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    inquiry = ask(demo_source(ferries, model_url, sandbox), "Delete every booking")
    assert inquiry.outcome == "refused"
    assert inquiry.problem is not None
    assert inquiry.problem.policy_line == "statement.reads-only"
    assert inquiry.attempts[0].draft is not None
    assert inquiry.attempts[0].draft.sql == "DELETE FROM booking"


def test_what_is_not_in_the_data_is_said_to_be_so(ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    inquiry = ask(demo_source(ferries, model_url, sandbox), "What does the captain earn?")
    assert (inquiry.outcome, inquiry.answer) == ("unanswerable", None)


@pytest.mark.parametrize("slip", SEEN_BY_THE_GUARD)
def test_careless_slips_that_the_guard_sees_are_repaired_on_the_second_attempt(
    slip: str, ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    source = demo_source(ferries, model_url, sandbox, model=f"careless-1.0-{slip}")
    for case in CASES:
        inquiry = ask(source, case["question"])
        first, second = inquiry.attempts
        assert first.findings
        assert all(r.verdict == "refuse" for r in first.rulings)
        assert first.run is None
        assert second.rulings[0].verdict == "run"
        assert agrees(inquiry, expected(ferries, case["sql"]), case), case["number"]


@pytest.mark.parametrize("slip", SEEN_BY_THE_GUARD)
def test_a_stubborn_model_is_never_answered_with_such_a_draft(
    slip: str, ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    source = demo_source(ferries, model_url, sandbox, model=f"stubborn-{slip}")
    for case in CASES:
        inquiry = ask(source, case["question"])
        assert inquiry.outcome == ("refused" if slip == "write" else "failed")
        assert inquiry.answer is None
        # The same draft twice ends the loop: asking a third time would only cost.
        assert len(inquiry.attempts) == 2


def test_slips_are_all_known_here() -> None:
    """Those left over need a review of meaning; `make bench` measures how many pass today."""
    assert set(SLIPS) - set(SEEN_BY_THE_GUARD) == {"misspelt-value", "missing-join", "unasked-limit"}


def test_a_flaky_server_costs_retries_but_no_attempt(ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    source = demo_source(ferries, model_url, sandbox, model="flaky")
    for case in CASES[:8]:
        inquiry = ask(source, case["question"])
        assert inquiry.outcome == "answered", inquiry.problem
        assert len(inquiry.attempts) == 1


def test_a_model_that_does_not_answer_is_a_clear_failure(ferries: Path, sandbox: Sandbox) -> None:
    inquiry = ask(demo_source(ferries, "http://127.0.0.1:9/v1", sandbox), "How many customers joined in 2026?")
    assert inquiry.outcome == "failed"
    assert inquiry.problem is not None
    assert "127.0.0.1:9" in inquiry.problem.title + inquiry.problem.hint


def test_a_limit_that_cut_the_answer_is_said(ferries: Path, model_url: str) -> None:
    sandbox = demo_sandbox(ferries, rows=5)
    try:
        source = demo_source(ferries, model_url, sandbox, policy=demo_policy(rows=5))
        inquiry = ask(source, "Show all harbours")
    finally:
        sandbox.close()
    assert inquiry.answer is not None
    assert (inquiry.answer.table.row_count, inquiry.answer.table.cut_by) == (5, "rows")
    assert (inquiry.trust, [c.rule for c in inquiry.answer.caveats]) == ("caution", ["result-cut", "unconfirmed"])


def test_a_runaway_query_is_stopped_and_told_to_the_model(ferries: Path, model_url: str) -> None:
    sandbox = demo_sandbox(ferries, query_s=0.001)
    try:
        policy = demo_policy(query_s=0.001)
        inquiry = ask(demo_source(ferries, model_url, sandbox, policy=policy), CASES[7]["question"])
    finally:
        sandbox.close()
    assert inquiry.outcome == "failed"
    assert inquiry.attempts[0].error is not None


def test_a_schema_beyond_the_budget_is_narrowed_to_what_the_question_needs(
    ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    source = demo_source(ferries, model_url, sandbox, policy=demo_policy(prompt_tokens=800))
    case = CASES[5]
    inquiry = ask(source, case["question"])
    assert inquiry.briefing is not None
    assert {"weather_reading", "harbour"} <= {t.name for t in inquiry.briefing.tables}
    assert len(inquiry.briefing.tables) < 18
    assert agrees(inquiry, expected(ferries, case["sql"]), case)


def test_a_table_made_a_moment_ago_is_seen(ferries: Path, model_url: str, tmp_path: Path) -> None:
    from harquel.core.engines.sqlite import SqliteEngine
    from harquel.core.scanning import CatalogKeeper

    path = tmp_path / "grows.db"
    shutil.copyfile(ferries, path)
    sandbox, policy = demo_sandbox(path), demo_policy()
    keeper = CatalogKeeper(SqliteEngine(path), lambda: policy)
    try:
        source = dataclasses.replace(demo_source(path, model_url, sandbox), catalog=keeper.current)
        assert ask(source, "How many lanterns are there?").outcome == "unanswerable"
        with sqlite3.connect(path) as connection:
            connection.execute("CREATE TABLE lantern (id INTEGER PRIMARY KEY)")
            connection.execute("INSERT INTO lantern VALUES (1), (2)")
        connection.close()
        inquiry = ask(source, "How many lanterns are there?")
    finally:
        sandbox.close()
    assert inquiry.answer is not None
    assert inquiry.answer.table.rows == [[2]]


class Scripted:
    """A language model that says what it was told to, and keeps what it was asked."""

    def __init__(self, *replies: str) -> None:
        self.replies, self.asked = list(replies), []
        self.profile = ModelProfile("http://nowhere", "scripted")

    def complete(self, messages: Any, **_: Any) -> Completion:
        self.asked.append(messages)
        return Completion(self.replies.pop(0), 0, 0)


def test_a_model_may_ask_for_more_of_the_catalog_which_costs_an_attempt(
    ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    draft = '{"sql": "SELECT COUNT(*) FROM fuel_log"}'
    model = Scripted('{"need": ["fuel_log", "bunkering"]}', draft, draft)
    tight = demo_source(ferries, model_url, sandbox, policy=demo_policy(prompt_tokens=500), examples=False)
    inquiry = ask(dataclasses.replace(tight, model=model), "How many wharf fees are there?")
    assert inquiry.answer is not None, inquiry.problem
    assert (inquiry.trust, [c.rule for c in inquiry.answer.caveats]) == ("caution", ["unconfirmed"])
    assert [f.rule for f in inquiry.attempts[0].findings] == ["asked-for-more"]
    assert "CREATE TABLE fuel_log" not in model.asked[0][1]["content"]
    assert "CREATE TABLE fuel_log" in model.asked[1][1]["content"]
    stubborn = Scripted(*['{"need": ["fuel_log"]}'] * 4)
    assert ask(dataclasses.replace(tight, model=stubborn), "How many wharf fees are there?").outcome == "failed"


def test_an_answer_says_which_agreed_measure_it_rests_on(ferries: Path, model_url: str, sandbox: Sandbox) -> None:
    inquiry = ask(demo_source(ferries, model_url, sandbox), CASES[1]["question"])
    assert inquiry.answer is not None
    (cited,) = inquiry.answer.measures
    assert (cited.name, cited.owner, cited.version) == ("revenue", "finance", 1)


def test_with_an_account_that_could_write_nothing_is_asked_where_the_policy_forbids_it(
    ferries: Path, model_url: str, sandbox: Sandbox
) -> None:
    source = dataclasses.replace(
        demo_source(ferries, model_url, sandbox), account_fault=lambda: "The account could do more than read."
    )
    inquiry = ask(source, CASES[0]["question"])
    assert (inquiry.outcome, inquiry.attempts) == ("refused", [])
    assert inquiry.problem is not None
    assert inquiry.problem.policy_line == "require_read_only_account"
