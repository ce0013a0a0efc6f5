"""Tokens and money: what is paid adds up, and no call is made that would go beyond what a day may come to."""

from __future__ import annotations

import datetime as dt
import json
import os
import sqlite3
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from decimal import Decimal
from pathlib import Path

import pytest

from harquel.client import Harquel, calls
from harquel.client.errors import Invalid
from harquel.demo.stage import Stage

PRICED = {"HARQUEL__MODELS__MAIN__PROMPT_PRICE": "2.5", "HARQUEL__MODELS__MAIN__COMPLETION_PRICE": "10"}
NewStage = Callable[..., Stage]
ASKED = int(os.environ.get("HARQUEL_TEST_ASKED", "64"))
ASKERS = 16


def cost(prompt: int, completion: int) -> Decimal:
    return (Decimal(prompt) * Decimal("2.5") + Decimal(completion) * 10) / 1_000_000


def test_what_calls_came_to_is_the_sum_of_the_calls(new_stage: NewStage, tmp_path: Path) -> None:
    quiet = {
        "HARQUEL__SERVICE__TRY_STARTERS": "false",
        "HARQUEL__SERVICE__ASKERS": "16",
        "HARQUEL__SERVICE__WAITING": "500",
    }
    with (
        new_stage(tmp_path, fresh=True, environment={**PRICED, **quiet}) as stage,
        Harquel(stage.url, stage.token) as admin,
    ):
        people = [
            admin.create_token(f"usage {n}", f"Asker {n}", ["ferries"], ["ask"], []).secret for n in range(ASKERS)
        ]

        def ask(n: int) -> None:
            with Harquel(stage.url, people[n % ASKERS]) as client:
                client.ask(f"How many sailings were cancelled in {2020 + n % 7}?", "ferries")

        with ThreadPoolExecutor(ASKERS) as pool:
            list(pool.map(ask, range(ASKED)))
        reports = {by: admin.send(calls.usage(by, None, None)) for by in ("day", "person", "duty", "model", "source")}
        total = reports["day"].total
        for report in reports.values():
            assert report.total == total
            assert sum(line.calls for line in report.lines) == total.calls
            assert sum(Decimal(line.cost) for line in report.lines) == Decimal(total.cost)
        assert total.calls >= 2 * ASKED
        assert {line.name for line in reports["duty"].lines} == {"draft", "read"}
        assert len(reports["person"].lines) == ASKERS
        assert Decimal(total.cost) == cost(total.prompt_tokens, total.completion_tokens)
        # Against what is told of each inquiry, and against the ledger, which are written by other code.
        records = sqlite3.connect(tmp_path / "records" / "records.db")
        told = [json.loads(row[0])["usage"] for row in records.execute("SELECT record FROM inquiries_storedinquiry")]
        assert (len(told), sum(u["calls"] for u in told)) == (ASKED, total.calls)
        assert sum(u["prompt_tokens"] for u in told) == total.prompt_tokens
        assert sum(Decimal(u["cost"]) for u in told) == Decimal(total.cost)
        replied = [
            json.loads(row[0])["facts"]
            for row in records.execute("SELECT body FROM ledger_entry WHERE kind = 'replied'")
        ]
        assert sum(f["completion_tokens"] for f in replied) == total.completion_tokens
        records.close()
        with Harquel(stage.url, people[0]) as one:
            mine = one.send(calls.usage("person", None, None))
            assert [line.name for line in mine.lines] == ["Asker 0"]
            assert mine.budgets == []
            with pytest.raises(Invalid, match="is no day"):
                one.send(calls.usage("day", "yesterday", None))
        assert admin.send(calls.check_model("main")).reached
        assert admin.send(calls.usage("duty", None, None)).total.calls == total.calls + 1
        early = dt.date(2020, 1, 1).isoformat()
        assert admin.send(calls.usage("day", early, early)).lines == []


def test_the_call_that_would_go_beyond_a_budget_is_not_made(new_stage: NewStage, tmp_path: Path) -> None:
    few = {"HARQUEL__BUDGETS__PERSON_DAY_TOKENS": "20000", "HARQUEL__SERVICE__TRY_STARTERS": "false"}
    with (
        new_stage(tmp_path, fresh=True, environment={**PRICED, **few}) as stage,
        Harquel(stage.url, stage.token) as admin,
    ):
        other = admin.create_token("budget", "Bo Ashgrove", ["ferries"], ["ask"], []).secret

        def ask(n: int) -> str:
            ended = admin.ask(f"How many sailings were cancelled in {2019 + n}?", "ferries")
            return ended.problem.type if ended.problem else ended.outcome or ""

        with ThreadPoolExecutor(6) as pool:
            ends = list(pool.map(ask, range(8)))
        assert "over-budget" in ends
        assert "answered" in ends
        report = admin.send(calls.usage("person", None, None))
        (mine,) = [line for line in report.lines if line.name == "Ada Brinewell"]
        assert 0 < mine.prompt_tokens + mine.completion_tokens <= 20_000
        (budget,) = [b for b in report.budgets if b.name == "person Ada Brinewell"]
        assert (budget.limit, budget.unit) == ("20000", "tokens")
        assert int(budget.spent) == mine.prompt_tokens + mine.completion_tokens
        again = admin.ask("How many harbours are there?", "ferries")
        assert again.outcome == "refused"
        assert again.problem is not None
        assert "20,000 tokens" in again.problem.title
        assert "budgets" in again.problem.hint
        # A check is paid for like any other call, and takes less.
        checks = (admin.send(calls.check_model("main")) for _ in range(60))
        assert "20,000 tokens" in next(found.problem for found in checks if not found.reached)
        before = admin.send(calls.usage("person", None, None)).total
        assert admin.ask("How many vessels are there?", "ferries").outcome == "refused"
        assert admin.send(calls.usage("person", None, None)).total == before
        with Harquel(stage.url, other) as bo:
            assert bo.ask("How many vessels are there?", "ferries").outcome == "answered"
    # What has been paid today counts after a restart as well.
    with (
        new_stage(tmp_path, fresh=True, environment={**PRICED, **few}) as stage,
        Harquel(stage.url, stage.token) as admin,
    ):
        assert admin.ask("How many vessels are there?", "ferries").outcome == "refused"
