"""What the way of a question knows of a sandbox: statements go in, plans and rows come out."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, Literal

from harquel.core.domain.result import Plan, Result
from harquel.core.domain.statements import RuledStatement
from harquel.core.errors import CoreError
from harquel.core.sandbox.plans import read_plan
from harquel.core.together import together

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
        return _result(self.ask("run", statement, stopped, within_s))

    def run_each(
        self, statements: Sequence[RuledStatement], stopped: Callable[[], bool], within_s: float
    ) -> list[Result | CoreError]:
        """Several beside each other, in their order: the rows of each, or why there are none."""
        found = self.ask_each("run", statements, stopped, within_s)
        return [each if isinstance(each, CoreError) else _result(each) for each in found]

    def plan_each(
        self, statements: Sequence[RuledStatement], stopped: Callable[[], bool], within_s: float
    ) -> list[Plan | CoreError]:
        """The same for dry runs."""
        found = self.ask_each("plan", statements, stopped, within_s)
        return [
            each if isinstance(each, CoreError) else read_plan(self.engine_name, each, statement)
            for each, statement in zip(found, statements, strict=True)
        ]

    def plan(self, statement: RuledStatement, stopped: Callable[[], bool] = never, within_s: float = 3600) -> Plan:
        """The dry run, under the same limits and clock as the run. Raises SandboxError or Cancelled."""
        return read_plan(self.engine_name, self.ask("plan", statement, stopped, within_s), statement)

    @abstractmethod
    def ask(self, op: Op, statement: RuledStatement, stopped: Callable[[], bool], within_s: float) -> dict[str, Any]:
        """A worker's reply as it is. Raises SandboxError or Cancelled."""

    def ask_each(
        self, op: Op, statements: Sequence[RuledStatement], stopped: Callable[[], bool], within_s: float
    ) -> list[dict[str, Any] | CoreError]:
        """Several workers' replies, asked for at the same time."""
        return together([partial(self.ask, op, each, stopped, within_s) for each in statements])


def _result(reply: dict[str, Any]) -> Result:
    return Result(
        tuple(reply["columns"]), tuple(reply["types"]), reply["rows"], reply["cut_by"], reply["bytes"],
        reply["elapsed_ms"],
    )  # fmt: skip
