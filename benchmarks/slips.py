"""How many wrong drafts of a careless model are answered without a word, kind by kind."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

from benchmarks.figure import Figure
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.inquiry import Inquiry
from harquel.standin.model.tempers import SLIPS
from harquel.testing.model import simulated_model
from harquel.testing.sources import agrees, ask, demo_sandbox, demo_source

CASES = Path(__file__).resolve().parent.parent / "tests" / "data" / "questions.yaml"


def measure(folder: Path) -> list[Figure]:
    """Wrong answers without a caveat, of the twelve questions, for each slip of a first draft."""
    path = folder / "ferries.db"
    cases: list[dict[str, Any]] = read_yaml(CASES.read_text())
    sandbox = demo_sandbox(path)
    figures = []
    try:
        with simulated_model() as url:
            for slip in SLIPS:
                source = demo_source(path, url, sandbox, model=f"careless-1.0-{slip}")
                silent = sum(_silently_wrong(ask(source, c["question"]), path, c) for c in cases)
                figures.append(Figure(f"silently wrong, {slip}", silent, "of 12"))
    finally:
        sandbox.close()
    return figures


def _silently_wrong(inquiry: Inquiry, path: Path, case: dict[str, Any]) -> bool:
    if inquiry.outcome != "answered" or inquiry.trust != "clear":
        return False
    connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        return not agrees(inquiry, connection.execute(case["sql"]).fetchall(), case)
    finally:
        connection.close()
