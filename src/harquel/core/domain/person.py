"""In whose name a question is asked: what of a policy concerns somebody depends on it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

Value = str | int | float | tuple[str | int | float, ...]


@dataclass(frozen=True)
class Person:
    """`values` stand in row rules as :name; a list of them is written where IN (:name) stands."""

    name: str = ""
    roles: frozenset[str] = frozenset()
    values: Mapping[str, Value] = field(default_factory=dict)


NOBODY = Person()
"""Without a role or a value: what concerns everybody concerns it too."""
