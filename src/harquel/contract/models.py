"""Language models of the configuration on the wire."""

from __future__ import annotations

from typing import Literal

from pydantic import RootModel

from .base import Shape


class ModelLine(Shape):
    """A language model as it is configured and as it stands; nothing secret."""

    name: str
    """What the configuration calls it."""
    model: str
    """What its server calls it."""
    protocol: str
    """How its server is spoken to."""
    address: str
    """Where its server is."""
    duties: list[str] = []
    """What it does, and for which source where that is its own: draft, read, ferries: word."""
    prompt_price: float = 0.0
    """Of a million tokens that it reads."""
    completion_price: float = 0.0
    """Of a million tokens that it writes."""
    at_once: int = 1
    """Calls that it takes at the same time."""
    state: Literal["closed", "open", "trying"] = "closed"
    """Whether it is called (closed), left alone after failures (open), or tried by one call (trying)."""
    rests_s: float = 0.0
    """Seconds that it is left alone yet."""
    calls: int = 0
    """Calls since the service started."""
    failures: int = 0
    """How many of them gave no reply."""
    last_fault: str = ""
    """Why the last one of these gave none."""


class ModelLines(RootModel[list[ModelLine]]):
    """All of them."""


class Reloaded(Shape):
    """What came of reading the configuration again."""

    changed: list[str]
    """What counts otherwise from now on, as models.main or budgets."""
    needs_restart: list[str] = []
    """What is otherwise in the file and counts only once the service is started again."""


class ModelCheck(Shape):
    """What came of a call that only asks whether a model can be used."""

    name: str
    """What the configuration calls it."""
    reached: bool
    """Whether it replied."""
    problem: str = ""
    """Why it did not."""
    hint: str = ""
    """What to do about that."""
    listed: list[str] | None = None
    """What its server says it has; null where it does not say."""
    first_ms: float | None = None
    """Until the first piece of its reply."""
    total_ms: float | None = None
    """Until the last one."""
    tokens_per_s: float | None = None
    """How fast it writes; null where its server counts no tokens or the reply came whole."""
    prompt_tokens: int = 0
    """Tokens that it read, as its server counts; 0 where that does not."""
    completion_tokens: int = 0
    """Tokens that it wrote."""
    shaped: bool | None = None
    """Whether it kept to the shape of a reply that it was told; null where it did not reply."""
    cost: str = ""
    """What the check cost; empty for a model without a price."""
