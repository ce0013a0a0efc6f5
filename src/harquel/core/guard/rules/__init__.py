"""The statement rules, in the order in which they are asked. Each is one file with its reason."""

from __future__ import annotations

from collections.abc import Callable

from harquel.core.guard.context import GuardContext, Objection

from .functions import functions
from .kinds import kinds
from .names import names
from .reads_only import reads_only

Rule = Callable[[GuardContext], list[Objection]]

RULES: tuple[Rule, ...] = (reads_only, kinds, functions, names)

__all__ = ["RULES", "Rule"]
