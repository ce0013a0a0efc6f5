"""The rules of the guard are values; see core/domain/rule.py."""

from __future__ import annotations

from collections.abc import Callable

from harquel.core.domain import rule as any_rule
from harquel.core.guard.context import GuardContext, Objection

Rule = any_rule.Rule[GuardContext, Objection]


def rule(*codes: str) -> Callable[[Callable[[GuardContext], list[Objection]]], Rule]:
    """Makes a rule of a function."""
    return lambda find: any_rule.Rule(find, codes)
