"""The statement rules, in the order in which they are asked. Each is one file with its reason."""

from __future__ import annotations

from .functions import functions
from .growth import growth
from .kinds import kinds
from .listing import listing
from .names import names
from .personal import personal
from .reads_only import reads_only
from .rule import Rule
from .types import types

RULES: tuple[Rule, ...] = (reads_only, kinds, functions, growth, types, names, personal, listing)

__all__ = ["RULES", "Rule"]
