"""Attacks: each at the guard and what it lets run at the sandbox, and each at the sandbox alone.

Whether something got through is asked of the database: what a later attack could cover up after each one, the
whole state before and after a batch. A batch that changed something is thrown again in halves until the
statement is found; if none does it alone, the batch is named.
"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from breach.corpus import Attack, attacks, disguised
from breach.targets import State, Target
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.policy import Exposure, Limits, Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.errors import SandboxError
from harquel.core.guard import rule_on_text
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.core.scanning import CatalogKeeper

SECONDS = 1.0
GRACE_S = 4.0
"""What may pass between the end of the limit and the end of the wait: stopping the server, and a worker's end."""
BATCH = 60
POLICY = Policy(
    expose=Exposure(withhold=("hidden.*", "customer.name", "customer.email", "customer.phone", "crew_member.phone")),
    limits=Limits(query_s=SECONDS, rows=200, bytes=200_000, memory_mb=256),
)


@dataclass
class AttackReport:
    """How many were thrown, how each line dealt with them, and what got through."""

    engine: str
    base: int = 0
    thrown: int = 0
    by_kind: Counter[str] = field(default_factory=Counter)
    guard: Counter[str] = field(default_factory=Counter)
    """With the guard before the sandbox: refused, stopped (by the sandbox), harmless (ran and did nothing)."""
    alone: Counter[str] = field(default_factory=Counter)
    """At the sandbox alone: stopped or harmless."""
    slowest_s: float = 0.0
    escapes: dict[str, str] = field(default_factory=dict)


class _Line:
    """One way to throw a statement, and what it did to the database."""

    def __init__(self, target: Target, throw: Callable[[Attack], None], report: AttackReport, name: str) -> None:
        self.target, self.throw, self.report, self.name = target, throw, report, name

    def batch(self, batch: list[Attack], before: State) -> State:
        """Throws them all; returns the state afterwards."""
        trace = self.target.trace()
        for attack in batch:
            started = time.monotonic()
            self.throw(attack)
            took = time.monotonic() - started
            self.report.slowest_s = max(self.report.slowest_s, took)
            if took > SECONDS + GRACE_S:
                self.escaped(attack, f"took {took:.1f} s at a limit of {SECONDS:g} s")
            now = self.target.trace()
            if changed := _changes(trace, now):
                self.escaped(attack, f"changed {changed}")
                trace = now
        after = self.target.state()
        changed = _changes({k: v for k, v in before.items() if k not in trace}, after)
        if not changed:
            return after
        if len(batch) == 1:
            self.escaped(batch[0], f"changed {changed}")
            return after
        middle, known = len(batch) // 2, len(self.report.escapes)
        after = self.batch(batch[middle:], self.batch(batch[:middle], after))
        if len(self.report.escapes) == known:
            self.escaped(batch[0], f"changed {changed}, or one of the {len(batch) - 1} after it")
        return after

    def escaped(self, attack: Attack, how: str) -> None:
        """Something got through."""
        self.report.escapes[attack.sql] = f"{self.name}: {how}"
        for file in Path("/tmp").glob("harquel-attack-*"):
            file.unlink()


def _changes(before: State, after: State) -> str:
    return ", ".join(sorted(k for k in before if before[k] != after[k]))


def run_attacks(
    target: Target, progress: Callable[[str], None] = lambda _: None, disguises: bool = True, every: int = 1
) -> AttackReport:
    """The whole corpus of an engine, each attack in its disguises too; or of each kind one in `every`."""
    report = AttackReport(target.name)
    whole = CatalogKeeper(target.engine, lambda: POLICY).current()
    catalog = POLICY.visible(whole)
    sandbox = Sandbox(target.engine, SandboxLimits.of(POLICY.limits))
    base = _sample(attacks(target.name), every)
    # What only takes long takes the whole limit each time: it comes undisguised.
    thrown = base + [d for a in base if disguises and a.kind != "resource" for d in disguised(a)]
    report.base, report.thrown = len(base), len(thrown)
    report.by_kind.update(a.kind for a in thrown)
    lines = {
        "guard and sandbox": _both(target, catalog, whole, sandbox, report),
        "sandbox alone": _alone(catalog, sandbox, report),
    }
    try:
        for name, throw in lines.items():
            line, state = _Line(target, throw, report, name), target.state()
            for start in range(0, len(thrown), BATCH):
                state = line.batch(thrown[start : start + BATCH], state)
                progress(f"{target.name}, {name}: {min(start + BATCH, len(thrown)):,} of {len(thrown):,}")
    finally:
        sandbox.close()
    return report


def _sample(found: list[Attack], every: int) -> list[Attack]:
    by_kind: dict[str, list[Attack]] = {}
    for attack in found:
        by_kind.setdefault(attack.kind, []).append(attack)
    return [attack for alike in by_kind.values() for attack in alike[::every]]


def _both(
    target: Target, catalog: Catalog, whole: Catalog, sandbox: Sandbox, report: AttackReport
) -> Callable[[Attack], None]:
    secrets = target.secrets()

    def throw(attack: Attack) -> None:
        ruled = rule_on_text(DraftedStatement(attack.sql), target.name, catalog, POLICY, whole=whole)
        if ruled.statement is None:
            report.guard["refused"] += 1
            return
        try:
            rows = sandbox.run(ruled.statement).rows
        except SandboxError:
            report.guard["stopped"] += 1
            return
        report.guard["harmless"] += 1
        if shown := _seen(rows, secrets):
            report.escapes[attack.sql] = f"guard and sandbox: showed {shown!r}"

    return throw


def _alone(catalog: Catalog, sandbox: Sandbox, report: AttackReport) -> Callable[[Attack], None]:
    reads = {t.name: frozenset(c.name for c in t.columns) for t in catalog.tables}

    def throw(attack: Attack) -> None:
        try:
            sandbox.test_door(attack.sql, reads)
            report.alone["harmless"] += 1
        except SandboxError:
            report.alone["stopped"] += 1

    return throw


def _seen(rows: list[list[Any]], secrets: frozenset[str]) -> str:
    """A value that the policy withholds, if one is among the rows, alone or inside a longer text."""
    for row in rows:
        for value in row:
            if isinstance(value, str) and (value in secrets or any(s in value for s in secrets if len(s) > 8)):
                return value[:60]
    return ""
