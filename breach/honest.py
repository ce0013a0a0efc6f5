"""Honest queries: the guard lets each through, the sandbox runs it, and our rendering gives the same rows."""

from __future__ import annotations

import datetime as dt
import sqlite3
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

import psycopg
import pymysql

from breach.corpus import honest
from breach.targets import Target
from harquel.core.domain.policy import Limits, Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.errors import SandboxError
from harquel.core.guard import rule_on_text
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.sandbox.workers.frame import wire
from harquel.core.scanning import CatalogKeeper

DRIVERS = (sqlite3.Error, psycopg.Error, pymysql.Error)
OPEN = Policy(withhold_delicate=False, limits=Limits(rows=100_000, bytes=50_000_000, memory_mb=1024, query_s=30))


@dataclass
class HonestReport:
    """How many there were and what went wrong with which."""

    engine: str
    count: int = 0
    invalid: dict[str, str] = field(default_factory=dict)
    """What the server itself turns down: a mistake in the corpus."""
    refused: dict[str, str] = field(default_factory=dict)
    broken: dict[str, str] = field(default_factory=dict)
    different: dict[str, str] = field(default_factory=dict)

    @property
    def failures(self) -> int:
        """Of whatever kind."""
        return len(self.invalid) + len(self.refused) + len(self.broken) + len(self.different)


def run_honest(target: Target, every: int = 1) -> HonestReport:
    """The corpus of an engine, whole or one in `every`."""
    report = HonestReport(target.name)
    catalog = OPEN.visible(CatalogKeeper(target.engine, lambda: OPEN).current())
    sandbox = Sandbox(target.engine, SandboxLimits.of(OPEN.limits))
    try:
        for sql in honest(target.name)[::every]:
            report.count += 1
            try:
                wanted = target.original(sql)
            except DRIVERS as error:
                report.invalid[sql] = str(error)
                continue
            ruled = rule_on_text(DraftedStatement(sql), target.name, catalog, OPEN)
            if ruled.statement is None:
                report.refused[sql] = "; ".join(f"{f.rule}: {f.message}" for f in ruled.findings)
                continue
            try:
                sandbox.plan(ruled.statement)
                result = sandbox.run(ruled.statement)
            except SandboxError as error:
                report.broken[sql] = f"{error} — {ruled.statement.sql}"
                continue
            if not same(sql, wanted[1], result.rows):
                report.different[sql] = f"{ruled.statement.sql}\n    {wanted[1][:3]}\n    {result.rows[:3]}"
    finally:
        sandbox.close()
    return report


def same(sql: str, wanted: list[tuple[Any, ...]], got: list[list[Any]]) -> bool:
    """Whether both are the same rows, in the same order where the query orders them."""
    left = [tuple(_plain(v if isinstance(v, dt.timedelta) else wire(v)[0]) for v in row) for row in wanted]
    right = [tuple(_plain(v) for v in row) for row in got]
    return left == right if "ORDER BY" in sql.upper().rsplit(")", 1)[-1] else Counter(left) == Counter(right)


def _plain(value: Any) -> str:
    """Figures to nine digits, times as every driver could write them."""
    if isinstance(value, dt.timedelta):
        value = f"{value!s:0>8}" if not value.microseconds else f"{value!s:0>15}"
    if isinstance(value, bool):
        value = int(value)
    try:
        return f"{float(value):.9g}"
    except (TypeError, ValueError):
        return str(value).replace("T", " ")
