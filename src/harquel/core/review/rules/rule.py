"""The rules of review are values; see core/domain/rule.py."""

from __future__ import annotations

from collections.abc import Callable

from harquel.core.domain import rule as any_rule
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext

Rule = any_rule.Rule[ReviewContext, Finding]


def rule(*codes: str) -> Callable[[Callable[[ReviewContext], list[Finding]]], Rule]:
    """Makes a rule of a function."""
    return lambda find: any_rule.Rule(find, codes)
