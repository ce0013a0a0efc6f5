"""Taking replies apart, case by case."""

from __future__ import annotations

from typing import Any

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from harquel.core.prompts import CannotReply, NoSqlReply, SqlReply, take_apart
from tests.conftest import DATA

CASES: list[dict[str, Any]] = yaml.safe_load((DATA / "replies.yaml").read_text())


@pytest.mark.parametrize("case", CASES, ids=[c["title"] for c in CASES])
def test_case(case: dict[str, Any]) -> None:
    found = take_apart(case["reply"])
    if "sql" in case:
        assert found == SqlReply(case["sql"], case.get("explanation", ""))
    elif "cannot" in case:
        assert isinstance(found, CannotReply)
        assert found.reason == case["cannot"]
    else:
        assert isinstance(found, NoSqlReply)
        assert case["fault"] in found.fault


def test_a_reply_nested_without_end_is_no_reply() -> None:
    assert isinstance(take_apart('{"sql": ' + "[" * 100_000), NoSqlReply)


@given(st.text(alphabet='{}"`\\nsqlSELECT :,1<think>/', max_size=80))
def test_no_text_breaks_it(text: str) -> None:
    take_apart(text)
