"""Builds a source for the core without the service, and compares results with hand-written queries."""

from __future__ import annotations

import datetime as dt
import functools
import sqlite3
from importlib import resources
from pathlib import Path
from typing import Any

import yaml

from harquel.contract import Inquiry
from harquel.core.curation import load_examples
from harquel.core.domain.events import Event, Unwatched
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Limits, Policy
from harquel.core.engines import SqliteEngine
from harquel.core.inquiry import Source, conduct
from harquel.core.llm import ChatCompletions, ModelProfile
from harquel.core.sandbox import Sandbox, SandboxLimits

NOW = dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC)
DEMO = Path(str(resources.files("harquel.demo") / "source"))


class Recorder(Unwatched):
    """Keeps the durable events of an inquiry."""

    def __init__(self) -> None:
        self.events: list[Event] = []

    def durable(self, event: Event) -> None:
        self.events.append(event)


def demo_policy(withhold: list[str] | None = None, **limits: Any) -> Policy:
    """The demo's policy with more withheld and other limits."""
    values = yaml.safe_load((DEMO / "policy.yaml").read_text())
    values["expose"]["withhold"] += withhold or []
    values["limits"] |= limits
    return Policy.model_validate(values)


def demo_notes(change: Any = lambda text: text) -> Notes:
    """The demo's notes, their text changed first."""
    return Notes.model_validate(yaml.safe_load(change((DEMO / "notes.yaml").read_text())))


def demo_source(
    path: Path, model_url: str, sandbox: Sandbox, model: str = "careful", policy: Policy | None = None,
    notes: Notes | None = None, examples: bool = True,
) -> Source:  # fmt: skip
    """A source over the demo database."""
    policy = policy or demo_policy()
    catalog = SqliteEngine(path).scan(policy, NOW)
    bank = load_examples(DEMO / "examples.yaml", "sqlite") if examples else ()
    asked = _model(model_url, model)
    return Source("ferries", "sqlite", lambda: catalog, policy, notes or demo_notes(), bank, sandbox, asked)


@functools.cache
def _model(url: str, name: str) -> ChatCompletions:
    return ChatCompletions(ModelProfile(url, name, timeout_s=10))


def demo_sandbox(path: Path, **limits: Any) -> Sandbox:
    """A sandbox over the demo database; close it."""
    return Sandbox(SqliteEngine(path), SandboxLimits.of(Limits(**limits)))


def ask(source: Source, question: str, watcher: Any = None) -> Inquiry:
    """Takes a question the whole way."""
    inquiry = Inquiry(
        id="test", state="working", source=source.name, question=question, asked_by="Ada Brinewell", asked_at=NOW
    )
    return conduct(inquiry, source, watcher or Unwatched(), NOW)


def expected(path: Path, sql: str) -> list[tuple[Any, ...]]:
    """What the hand-written query gives."""
    connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        return connection.execute(sql).fetchall()
    finally:
        connection.close()


def agrees(inquiry: Inquiry, want: list[tuple[Any, ...]], case: dict[str, Any]) -> bool:
    """Whether an answer says what the hand-written query says."""
    if inquiry.answer is None:
        return False
    take = {"figures": lambda r: r[-1:], "first column": lambda r: r[:1]}.get(case.get("compare", ""), lambda r: r)
    got = [_comparable(take(r)) for r in inquiry.answer.table.rows]
    wanted = [_comparable(take(r)) for r in want]
    return got == wanted if case.get("ordered") else sorted(got) == sorted(wanted)


def _comparable(row: Any) -> tuple[str, ...]:
    return tuple(f"{v:.6f}" if isinstance(v, int | float) else str(v) for v in row)
