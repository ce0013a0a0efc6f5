"""The rules of review are values; see core/domain/rule.py."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from harquel.core.domain import rule as any_rule
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext

Rule = any_rule.Rule[ReviewContext, Finding]


def rule(
    *codes: str, needs: Literal["question", "statement"] = "question"
) -> Callable[[Callable[[ReviewContext], list[Finding]]], Rule]:
    """Makes a rule of a function; `statement`: it can say something where the question cannot be read."""
    return lambda find: any_rule.Rule(find, codes, needs)
