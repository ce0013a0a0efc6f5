"""What of an inquiry goes along with one that follows it: what was asked and how it was understood, never what came."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field
from typing import Any


@dataclass(kw_only=True)
class Earlier:
    """An inquiry that is followed. No row and no figure of its answer is here; it is not kept with the next one."""

    inquiry: str
    """Its id."""
    question: str
    """The question, as it stood by itself."""
    as_of: dt.datetime | None = None
    """The instant that it was about."""
    sql: str = ""
    """The statement that it was answered by, as it was drafted; empty where it was not answered."""
    reading: dict[str, Any] | None = None
    """How it was understood, where a statement built from that gave the rows of the answer."""
    anew: bool = False
    """Whether the same is asked anew, about another instant: its times move along."""
    asked_back: str = ""
    """What was asked back instead of answering."""
    ways: list[str] = field(default_factory=list)
    """The ways to mean it that were offered then: what the question gains by each, not what each comes to."""
    sight: str = ""
    """What existed for whoever asked when it was asked back (see Terms.sight)."""
