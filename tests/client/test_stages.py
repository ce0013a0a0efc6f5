"""What an inquiry is at, and for how long: the same cases as in the console."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from harquel.contract.stages import Happened, stages_of

CASES = json.loads((Path(__file__).parents[1] / "data" / "stages.json").read_text("utf-8"))


@pytest.mark.parametrize("case", CASES, ids=[case["name"] for case in CASES])
def test_stages_are_made_from_events(case: dict[str, Any]) -> None:
    happened = [Happened(kind, at, *more) for kind, at, *more in case["events"]]
    found = stages_of(happened, case["now"])
    assert [[one.stage, one.seconds, one.open] for one in found] == case["stages"]
