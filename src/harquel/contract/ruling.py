"""Policies on the wire: explained for somebody, and checked."""

from __future__ import annotations

from pydantic import Field

from .access import Value
from .attempts import Finding, Ruling, Verdict
from .base import Input, Shape


class ExplainRequest(Input):
    """Body of POST /sources/{name}/policy/explain: for whom, and for which statement, if for one."""

    sql: str | None = Field(default=None, max_length=100_000)
    """A statement to rule on; may be left out."""
    person: str = ""
    """For whom."""
    roles: list[str] = []
    """The roles of that person."""
    values: dict[str, Value] = {}
    """The values of that person, by name."""


class PolicySentence(Shape):
    """One thing that the policy says, and the line of it that says so."""

    line: str
    """The line of the policy."""
    text: str
    """What it says, in a sentence."""


class ExplainedPolicy(Shape):
    """What the policy comes to; with a statement also the ruling on it, and what would be allowed instead."""

    source: str
    """The source's name."""
    sentences: list[PolicySentence]
    """What the policy comes to for that person."""
    verdict: Verdict | None = None
    """Whether the statement may run; null without one."""
    rulings: list[Ruling] = []
    """What the guard decided."""
    findings: list[Finding] = []
    """What is held against the statement."""
    rewritten_sql: str | None = None
    """What would run."""
    instead: str = ""
    """What would be allowed instead."""


class Standstill(Input):
    """Whether every statement on every source is stopped."""

    on: bool
    """Whether every statement is stopped."""


class CheckPolicyRequest(Input):
    """Body of POST /sources/{name}/policy/check: a policy's text, or none for the one that counts."""

    text: str | None = Field(default=None, max_length=1_000_000)
    """A policy, as YAML; the one that counts when left out."""


class CheckedPolicy(Shape):
    """What in a policy matches nothing or cannot be applied; empty when all is well."""

    source: str
    """The source's name."""
    faults: list[PolicySentence]
    """What matches nothing or cannot be applied."""
    remarks: list[PolicySentence] = []
    """What is worth knowing: columns that are shown or wait for a line."""
