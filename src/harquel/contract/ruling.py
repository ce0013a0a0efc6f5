"""Policies on the wire: explained for somebody, and checked."""

from __future__ import annotations

from pydantic import Field

from .access import Value
from .base import Input, Shape
from .inquiry import Finding, Ruling, Verdict


class ExplainRequest(Input):
    """Body of POST /sources/{name}/policy/explain: for whom, and for which statement, if for one."""

    sql: str | None = Field(default=None, max_length=100_000)
    person: str = ""
    roles: list[str] = []
    values: dict[str, Value] = {}


class PolicySentence(Shape):
    """One thing that the policy says, and the line of it that says so."""

    line: str
    text: str


class ExplainedPolicy(Shape):
    """What the policy comes to; with a statement also the ruling on it, and what would be allowed instead."""

    source: str
    sentences: list[PolicySentence]
    verdict: Verdict | None = None
    rulings: list[Ruling] = []
    findings: list[Finding] = []
    rewritten_sql: str | None = None
    instead: str = ""


class Standstill(Input):
    """Whether every statement on every source is stopped."""

    on: bool


class CheckPolicyRequest(Input):
    """Body of POST /sources/{name}/policy/check: a policy's text, or none for the one that counts."""

    text: str | None = Field(default=None, max_length=1_000_000)


class CheckedPolicy(Shape):
    """What in a policy matches nothing or cannot be applied; empty when all is well."""

    source: str
    faults: list[PolicySentence]
    remarks: list[PolicySentence] = []
