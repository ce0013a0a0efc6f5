"""Taking replies apart, case by case."""

from __future__ import annotations

import time
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from harquel.core.curation.yaml_text import read_yaml
from harquel.core.prompts import AskReply, CannotReply, MoreReply, NoSqlReply, SqlReply, take_apart
from tests.conftest import DATA

CASES: list[dict[str, Any]] = read_yaml((DATA / "replies.yaml").read_text())


@pytest.mark.parametrize("case", CASES, ids=[c["title"] for c in CASES])
def test_case(case: dict[str, Any]) -> None:
    found = take_apart(case["reply"])
    if "sql" in case:
        assert found == SqlReply(case["sql"], case.get("explanation", ""))
    elif "cannot" in case:
        assert isinstance(found, CannotReply)
        assert found.reason == case["cannot"]
    elif "need" in case:
        assert found == MoreReply(tuple(case["need"]))
    elif "ask" in case:
        assert isinstance(found, AskReply)
        assert list(found.readings) == case["ask"]
    else:
        assert isinstance(found, NoSqlReply)
        assert case["fault"] in found.fault


def test_a_reply_nested_without_end_is_no_reply() -> None:
    assert isinstance(take_apart('{"sql": ' + "[" * 100_000), NoSqlReply)


@given(st.text(alphabet='{}"`\\nsqlSELECT :,1<think>/', max_size=80))
def test_no_text_breaks_it(text: str) -> None:
    take_apart(text)


ENDLESS = (
    " ", "{", '{"', '{"a":', "[{", '{"a":[1,', "```", "```\n", "``` ", "```" + " " * 50, "<think>", "<think></think>",
    "--", "-- \n", "/*", "(", "( ", '{"sql": "', '{}', '{"x":{}},', "`", "```sql\nSELECT 1\n", '{"k":"{', "\\", '"',
    "WITH ", "```\u2028",
)  # fmt: skip


@pytest.mark.parametrize("piece", ENDLESS)
@pytest.mark.parametrize("head", ["", "```", '{"a": [', "<think>", "SELECT 1"])
def test_taking_apart_costs_the_same_for_every_character(head: str, piece: str) -> None:
    """Eight times the text takes about eight times as long: a quadratic step would take 64 times."""

    def seconds(characters: int) -> float:
        text = (head + piece * (characters // len(piece)))[:characters]
        best = 1e9
        for _ in range(3):
            started = time.process_time()
            take_apart(text)
            best = min(best, time.process_time() - started)
        return best

    short, long = seconds(24_000), seconds(192_000)
    assert long < 24 * max(short, 0.0005)
