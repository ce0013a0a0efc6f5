"""A draft on its way: what was proposed, ruled, found, planned and run."""

from __future__ import annotations

from typing import Literal

from .base import Shape

Verdict = Literal["run", "hold", "refuse"]
Severity = Literal["info", "warning", "error"]


class Finding(Shape):
    """One observation on a draft or a result; start and end are code points of the draft."""

    rule: str
    """The rule that found it, by a stable name."""
    severity: Severity
    """How much it weighs: an error is sent back, a warning is a caveat, an info is told."""
    message: str
    """What was found."""
    hint: str = ""
    """What would be right."""
    start: int | None = None
    """Where in the draft it begins, in code points; null: nowhere in particular."""
    end: int | None = None
    """Where it ends."""


class Ruling(Shape):
    """What the guard decided on the text or on the plan, and the policy line that decided."""

    on: Literal["text", "plan"]
    """What was ruled on."""
    verdict: Verdict
    """Whether it may run."""
    policy_line: str
    """The line of the policy that decided."""
    reason: str
    """Why, in a sentence."""


class DraftShape(Shape):
    """The SQL that a model proposed, in its own writing."""

    sql: str
    """The statement, as the model wrote it."""
    explanation: str
    """What the model says of it."""
    model: str
    """The model's name."""
    template: str = ""
    """By which template it was asked for: whose that is, and a digest of its text."""
    reused: str = ""
    """The inquiry for which it was drafted before; empty: for this one."""


class DryRun(Shape):
    """The plan: steps in words, rows it expects to touch, cost in the engine's unit if it has one."""

    steps: list[str]
    """The plan, a step a line."""
    rows: int | None = None
    """How many rows the database expects to read; null where it does not say."""
    cost: float | None = None
    """What it expects that to cost, in its own unit; null where it has none."""


class RunFigures(Shape):
    """What the run brought back; `bytes` is the size of the values, `elapsed_ms` the worker's clock."""

    row_count: int
    """How many rows came back."""
    bytes: int
    """The size of their values."""
    elapsed_ms: float
    """How long the statement ran, in milliseconds."""


class Change(Shape):
    """A clause that a draft added to the one before it, or took out."""

    kind: Literal["added", "removed"]
    """Whether it came or went."""
    text: str
    """The clause."""


class Attempt(Shape):
    """One draft and all that happened to it; `changes` against the draft before it."""

    number: int
    """Counted from one."""
    draft: DraftShape | None = None
    """What the model proposed; null where no SQL could be told apart."""
    rulings: list[Ruling] = []
    """What the guard decided."""
    findings: list[Finding] = []
    """What guard and review found."""
    changes: list[Change] = []
    """What is different from the draft before it."""
    rewritten_sql: str | None = None
    """What runs: our rendering, with limits and row rules."""
    dry_run: DryRun | None = None
    """The plan."""
    run: RunFigures | None = None
    """What the run brought back; null where nothing ran."""
    error: str | None = None
    """What the database said against it."""
