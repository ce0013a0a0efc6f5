"""What the way of a question knows of a sandbox: statements go in, plans and rows come out."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import Any, Literal

from harquel.core.domain.result import Plan, Result
from harquel.core.domain.statements import RuledStatement
from harquel.core.sandbox.plans import read_plan

Op = Literal["run", "plan"]


def never() -> bool:
    """Nobody stops it."""
    return False


class StatementRunner(ABC):
    """Runs ruled statements of one source, wherever its workers are."""

    def __init__(self, engine_name: str) -> None:
        self.engine_name = engine_name

    def run(self, statement: RuledStatement, stopped: Callable[[], bool] = never, within_s: float = 3600) -> Result:
        """The rows. Raises SandboxError or Cancelled."""
        reply = self.ask("run", statement, stopped, within_s)
        return Result(
            tuple(reply["columns"]), tuple(reply["types"]), reply["rows"], reply["cut_by"],
            reply["bytes"], reply["elapsed_ms"],
        )  # fmt: skip

    def plan(self, statement: RuledStatement, stopped: Callable[[], bool] = never, within_s: float = 3600) -> Plan:
        """The dry run, under the same limits and clock as the run. Raises SandboxError or Cancelled."""
        return read_plan(self.engine_name, self.ask("plan", statement, stopped, within_s), statement)

    @abstractmethod
    def ask(self, op: Op, statement: RuledStatement, stopped: Callable[[], bool], within_s: float) -> dict[str, Any]:
        """A worker's reply as it is. Raises SandboxError or Cancelled."""
