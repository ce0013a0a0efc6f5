"""What calls of language models came to, on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from .base import Input, Shape

UsageBy = Literal["day", "model", "source", "person", "duty", "inquiry"]


class UsageQuery(Input):
    """Which calls, and by what they are added up."""

    since: str | None = None
    """The first day, as in 2026-09-01; 30 days before the last where nothing is said."""
    until: str | None = None
    """The last day; today (UTC) where nothing is said."""
    by: UsageBy = "day"
    """What each line stands for."""


class UsageLine(Shape):
    """What some calls came to together."""

    name: str
    """The day, model, source, person, duty or inquiry that it stands for."""
    calls: int = 0
    """How many."""
    prompt_tokens: int = 0
    """Tokens that were read."""
    completion_tokens: int = 0
    """Tokens that were written."""
    reasoning_tokens: int = 0
    """Those of them that were thought with."""
    cached_tokens: int = 0
    """Tokens that were read from a store."""
    estimated: int = 0
    """Calls of which the server counted no tokens, so that they are worked out."""
    cost: str = "0"
    """What they cost, in the currency of the configured prices."""


class BudgetLine(Shape):
    """What may be spent in a day, and what of today has been."""

    name: str
    """Whose it is: all, person NAME, source NAME."""
    unit: Literal["cost", "tokens"]
    """What is counted."""
    limit: str
    """How much may be spent."""
    spent: str
    """How much has been."""


class UsageReport(Shape):
    """What calls of language models came to in some days."""

    since: dt.date
    """The first day."""
    until: dt.date
    """The last one."""
    by: UsageBy
    """What each line stands for."""
    lines: list[UsageLine]
    """Days in their order, everything else by what it cost, then by its tokens; no more than 500."""
    total: UsageLine
    """All of them."""
    budgets: list[BudgetLine] = []
    """Those that are set, for whoever asks and for the sources that they see."""
