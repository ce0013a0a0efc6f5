"""An old answer, again: what was answered then, and what has changed since."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field
from typing import Any, Literal

from harquel.core.domain.chart import Chart


@dataclass(kw_only=True)
class Since:
    """What is different now from an earlier answer by the same statement."""

    inquiry: str
    """The earlier inquiry."""
    as_of: dt.datetime | None = None
    """The instant that it was about."""
    same: bool | None = None
    """Whether the rows are the same; None where they cannot be compared."""
    said: str = ""
    """What is different, in words."""
    come: int = 0
    """Rows that are new."""
    gone: int = 0
    """Rows that are no more."""
    changed: int = 0
    """Rows of which something else than what tells them apart is different."""


@dataclass(kw_only=True)
class Before:
    """What of an earlier answer is needed to come to it once more; it is not kept once that has ended."""

    inquiry: str
    """The earlier inquiry."""
    as_of: dt.datetime | None = None
    """The instant that it was about."""
    asked_at: dt.datetime
    """When it was asked."""
    sql: str
    """Its statement, as it was drafted."""
    explanation: str = ""
    """What the model said of it."""
    model: str = ""
    """The model that drafted it."""
    text: str = ""
    """The answer in a sentence."""
    remark: str = ""
    """What its figures were worth a remark for."""
    chart: Chart | None = None
    """What was drawn of it."""
    trust: Literal["clear", "caution"] | None = None
    """How it went out."""
    caveats: list[tuple[str, str]] = field(default_factory=list)
    """What was to be doubted about it: rule and message."""
    columns: list[str] = field(default_factory=list)
    """The names of its columns."""
    rows: list[list[Any]] | None = None
    """Its rows; None where they are kept no more."""
    cut: bool = False
    """Whether a limit had cut them off."""
    whole: bool = False
    """Whether all of its rows are wanted, as a file."""
