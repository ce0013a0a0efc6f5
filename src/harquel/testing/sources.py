"""Builds a source for the core without the service, and compares results with hand-written queries."""

from __future__ import annotations

import datetime as dt
import functools
import sqlite3
from importlib import resources
from pathlib import Path
from typing import Any

from harquel.core.briefing import Briefing, CatalogIndex, Describer, TokenGauge, brief
from harquel.core.curation import load_examples
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.events import Event, Unwatched
from harquel.core.domain.examples import Example
from harquel.core.domain.followed import earlier_of
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Limits, Policy
from harquel.core.engines import Engine
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.inquiry.conduct import conduct
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import ModelProfile
from harquel.core.llm.over_http import HttpModel
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.scanning import CatalogKeeper, MemoryStore
from harquel.demo.load_servers import notes_for

NOW = dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC)
DEMO = Path(str(resources.files("harquel.demo") / "source"))


PATIENCE_S = 60.0
"""For the values of a table: on a busy machine they would be missing otherwise, and with them what review knows."""


class Recorder(Unwatched):
    """Keeps the durable events of an inquiry."""

    def __init__(self) -> None:
        self.events: list[Event] = []

    def durable(self, event: Event) -> None:
        """Keeps it."""
        self.events.append(event)


def demo_policy(withhold: list[str] | None = None, **limits: Any) -> Policy:
    """The demo's policy with more withheld and other limits."""
    values = read_yaml((DEMO / "policy.yaml").read_text())
    values["expose"]["withhold"] += withhold or []
    values["limits"] |= limits
    return Policy.model_validate(values)


def demo_notes(change: Any = lambda text: text) -> Notes:
    """The demo's notes, their text changed first."""
    return Notes.model_validate(read_yaml(change((DEMO / "notes.yaml").read_text())))


def scanned(path: Path, policy: Policy | None = None) -> Catalog:
    """The catalog of a SQLite file."""
    return keeper_of(path, policy or demo_policy()).current()


_STORES: dict[tuple[Path, Policy], MemoryStore] = {}


def keeper_of(path: Path, policy: Policy) -> CatalogKeeper:
    """A keeper over a SQLite file. The values of a database are looked into once a process, its structure each time."""
    # What is looked into does not depend on limits.
    store = _STORES.setdefault((path, policy.model_copy(update={"limits": Limits()})), MemoryStore())
    return CatalogKeeper(SqliteEngine(path), lambda: policy, store, profile_s=PATIENCE_S)


def source_of(
    keeper: CatalogKeeper, model: HttpModel, sandbox: Sandbox, policy: Policy, notes: Notes,
    bank: tuple[Example, ...] = (),
) -> Source:  # fmt: skip
    """A source over any engine."""
    engine = keeper.engine
    return Source(
        "ferries", engine.name, keeper.current, keeper.refreshed, Describer(policy, notes), lambda: bank, engine.grant,
        sandbox, model, TokenGauge(),
    )  # fmt: skip


def demo_source(
    path: Path, model_url: str, sandbox: Sandbox, model: str = "careful", policy: Policy | None = None,
    notes: Notes | None = None, examples: bool = True,
) -> Source:  # fmt: skip
    """A source over the demo database."""
    policy = policy or demo_policy()
    keeper = keeper_of(path, policy)
    bank = load_examples(DEMO / "examples.yaml", "sqlite") if examples else ()
    return source_of(keeper, model_of(model_url, model), sandbox, policy, notes or demo_notes(), bank)


@functools.cache
def model_of(url: str, name: str) -> HttpModel:
    """The simulated model under a name, made once a process."""
    return HttpModel(ModelProfile(url, name, timeout_s=10))


def demo_sandbox(path: Path, **limits: Any) -> Sandbox:
    """A sandbox over the demo database; close it."""
    return Sandbox(SqliteEngine(path), SandboxLimits.of(Limits(**limits)))


def ask(
    source: Source, question: str, watcher: Any = None, choice: str | None = None, earlier: Inquiry | None = None,
    now: dt.datetime = NOW,
) -> Inquiry:  # fmt: skip
    """Takes a question the whole way; `choice` is what was chosen of what was asked back, `earlier` what it follows."""
    inquiry = Inquiry(
        id="test", state="working", source=source.name, question=question, asked_by="Ada Brinewell", asked_at=NOW,
        choice=choice, earlier=earlier_of(earlier) if earlier is not None else None, as_of=now,
    )  # fmt: skip
    return conduct(inquiry, source, watcher or Unwatched(), now)


def expected(path: Path, sql: str) -> list[tuple[Any, ...]]:
    """What the hand-written query gives."""
    connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        return connection.execute(sql).fetchall()
    finally:
        connection.close()


def engine_source(
    engine: Engine, model_url: str, model: str = "careful", policy: Policy | None = None
) -> tuple[Source, CatalogKeeper]:
    """The demo's source over any engine; its sandbox is to be closed."""
    policy = policy or demo_policy()
    keeper = CatalogKeeper(engine, lambda: policy, profile_s=PATIENCE_S)
    sandbox = Sandbox(engine, SandboxLimits.of(policy.limits))
    bank = load_examples(DEMO / "examples.yaml", engine.name)
    notes = demo_notes(lambda text: notes_for(engine.name, text))
    return source_of(keeper, model_of(model_url, model), sandbox, policy, notes, bank), keeper


def agrees(inquiry: Inquiry, want: list[tuple[Any, ...]], case: dict[str, Any]) -> bool:
    """Whether an answer says what the hand-written query says."""
    if inquiry.answer is None:
        return False
    part = {"figures": slice(-1, None), "first column": slice(1)}.get(case.get("compare", ""), slice(None))
    got = [_comparable(r[part]) for r in inquiry.answer.table.rows]
    wanted = [_comparable(r[part]) for r in want]
    return got == wanted if case.get("ordered") else sorted(got) == sorted(wanted)


def _comparable(row: Any) -> tuple[str, ...]:
    return tuple(map(_plain, row))


def _plain(value: Any) -> str:
    """Figures to six digits, times without what engines write differently."""
    try:
        return f"{float(value):.6f}"
    except (TypeError, ValueError):
        return str(value).replace("T", " ")


def briefed(
    question: str, catalog: Catalog, notes: Notes | None = None, examples: tuple[Example, ...] = (),
    budget: int = 50_000,
) -> Briefing:  # fmt: skip
    """A briefing over a visible catalog."""
    index = CatalogIndex.build(catalog, notes or demo_notes(), demo_policy())
    return brief(question, index, examples, budget, TokenGauge())
