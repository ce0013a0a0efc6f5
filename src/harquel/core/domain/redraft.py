"""A question that has been answered, drafted again by another model or by other templates, to lay both side by side."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any


@dataclass(kw_only=True)
class Redraft:
    """What is other than in the inquiry before it, which stays as it is."""

    inquiry: str
    """That inquiry."""
    model: str = ""
    """The model that drafts, by its name in the configuration; empty: whoever usually does."""
    shipped: bool = False
    """Whether by the templates that ship instead of the source's own."""
    same: bool | None = None
    """Whether both gave the same rows; null where that cannot be told."""
    said: str = ""
    """What is different, in words."""
    columns: list[str] = field(default_factory=list)
    """The columns of the rows before, until they have been compared."""
    types: list[str] = field(default_factory=list)
    """What is in them."""
    rows: list[list[Any]] | None = None
    """Those rows; None where they are kept no more."""
