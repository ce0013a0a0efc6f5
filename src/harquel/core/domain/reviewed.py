"""What guard and review make of a statement that nobody runs."""

from __future__ import annotations

from dataclasses import dataclass

from harquel.core.domain.findings import Finding, Ruling, Verdict
from harquel.core.domain.inquiry import DryRun


@dataclass(kw_only=True)
class Reviewed:
    """What guard and review say about a statement that was not run."""

    verdict: Verdict
    """Whether it might run."""
    rulings: list[Ruling]
    """What the guard decided."""
    findings: list[Finding]
    """What guard and review found."""
    rewritten_sql: str | None = None
    """What would run."""
    read_back: str | None = None
    """What it does, in words, read from it."""
    dry_run: DryRun | None = None
    """The plan, where the database was asked for it."""
