"""A question over a world of two tables, conducted in the nursery: what is made at first use is there for every fork.

Patterns are compiled, validators built and grammars loaded once instead of in each conductor.
"""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Callable
from functools import partial
from typing import Any, Final

from harquel.core.briefing import Describer, TokenGauge
from harquel.core.domain import record
from harquel.core.domain.catalog import Catalog, Column, ForeignKey, Table
from harquel.core.domain.events import Unwatched
from harquel.core.domain.examples import Example
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import RuledStatement
from harquel.core.inquiry.conduct import conduct
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import Completion, Message, ModelProfile, OnPiece
from harquel.core.sandbox import StatementRunner

_NOW: Final = dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC)
_SQL: Final = (
    "SELECT q.name, COUNT(*) AS boats FROM boat AS b JOIN quay AS q ON q.id = b.quay_id "
    "WHERE b.launched >= '2026-08-01' AND b.launched < '2026-09-01' AND b.state = 'laid up' "
    "GROUP BY q.name ORDER BY boats DESC LIMIT 5"
)


class _Model:
    profile = ModelProfile("", "warm-up")

    def complete(
        self, messages: list[Message], *, on_piece: OnPiece | None, stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:  # fmt: skip
        return Completion(json.dumps({"sql": _SQL, "explanation": "Boats by quay."}), 100, 20)


class _Runner(StatementRunner):
    def ask(self, op: Any, statement: RuledStatement, stopped: Callable[[], bool], within_s: float) -> dict[str, Any]:
        if op == "plan":
            return {"steps": [[1, 0, "SCAN b"]], "plan": None, "elapsed_ms": 1.0}
        return {
            "columns": ["name", "boats"], "types": ["text", "number"], "rows": [["North", 2], ["South", 1]],
            "cut_by": None, "bytes": 12, "elapsed_ms": 1.0,
        }  # fmt: skip


def _catalog(engine: str) -> Catalog:
    key = Column("id", "INTEGER", False, primary_key=True, unique=True)
    quay = Table(
        "quay", "table", (key, Column("name", "TEXT", False, samples=("North", "South"), distinct=2)), row_count=2
    )
    boat = Table(
        "boat", "table",
        (
            key, Column("quay_id", "INTEGER", False), Column("launched", "DATE", True, low="2020-01-01"),
            Column("state", "TEXT", False, samples=("laid up", "afloat"), complete=True, distinct=2),
        ),
        row_count=3, foreign_keys=(ForeignKey(("quay_id",), "quay", ("id",)),),
    )  # fmt: skip
    return Catalog(engine, (quay, boat), "warm-up", _NOW, "main")


def _held(catalog: Catalog, stopped: Callable[[], bool]) -> Catalog:
    return catalog


def warm_up() -> None:
    """For each engine. Nothing of it is kept but what Python has learnt."""
    for engine in ("sqlite", "postgresql", "mariadb"):
        catalog, model = _catalog(engine), _Model()
        source = Source(
            "warm-up", engine, partial(_held, catalog), partial(_held, catalog),
            Describer(Policy(), Notes()), lambda: (Example("How many boats are there?", "SELECT 1", ("boat",)),),
            str, _Runner(engine), model, TokenGauge(),
        )  # fmt: skip
        inquiry = Inquiry(
            id="warm-up", state="working", source="warm-up", asked_by="nobody", asked_at=_NOW,
            question="Which five quays had most boats laid up in August 2026?",
        )  # fmt: skip
        record.written(conduct(inquiry, source, Unwatched(), _NOW))
