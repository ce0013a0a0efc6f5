"""Models that say what a script has: one that repeats its draft, and one that corrects it once it is told."""

from __future__ import annotations

import json
from collections.abc import Callable
from threading import Barrier
from typing import Any

from harquel.core.domain.statements import RuledStatement
from harquel.core.llm.model import Completion, LanguageModel, Message, ModelProfile, OnPiece
from harquel.core.sandbox import StatementRunner
from harquel.core.sandbox.runner import Op


class Scripted:
    """Answers with the first draft, and from the second call on with the last one."""

    def __init__(self, *drafts: str) -> None:
        self.drafts = drafts
        self.profile = ModelProfile("http://scripted.example", "scripted")

    def complete(
        self,
        messages: list[Message],
        *,
        on_piece: OnPiece | None,
        stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:
        """The draft whose turn it is."""
        turn = sum(m["role"] == "assistant" for m in messages)
        sql = self.drafts[min(turn, len(self.drafts) - 1)]
        return Completion(json.dumps({"sql": sql, "explanation": ""}), 0, 0)


class Meets(Scripted):
    """Says nothing before the other call of its barrier is under way as well."""

    def __init__(self, barrier: Barrier, says: LanguageModel) -> None:
        super().__init__("")
        self.barrier, self.says, self.profile = barrier, says, says.profile

    def complete(self, messages: list[Message], **more: Any) -> Completion:
        """What the other model says. Raises BrokenBarrierError where nobody comes within ten seconds."""
        self.barrier.wait(10)
        return self.says.complete(messages, **more)


class RunsMeet(StatementRunner):
    """Runs nothing before the other run of its barrier is under way as well; counts the runs.

    Small queries of ours, which run without a plan, go their way.
    """

    def __init__(self, barrier: Barrier | None, sandbox: StatementRunner) -> None:
        super().__init__(sandbox.engine_name)
        self.barrier, self.sandbox, self.runs = barrier, sandbox, 0
        self.planned: set[str] = set()

    def ask(self, op: Op, statement: RuledStatement, stopped: Callable[[], bool], within_s: float) -> dict[str, Any]:
        """What the sandbox says. Raises BrokenBarrierError where nobody comes within ten seconds."""
        if op == "plan":
            self.planned.add(statement.sql)
        if op == "run" and statement.sql in self.planned:
            self.runs += 1
            if self.barrier is not None:
                self.barrier.wait(10)
        return self.sandbox.ask(op, statement, stopped, within_s)
