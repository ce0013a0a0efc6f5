"""What an inquiry took: tokens, money, time."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(kw_only=True)
class Usage:
    """What the model reported; `cost` in the currency of the configured prices, if any."""

    prompt_tokens: int = 0
    """Tokens that models read."""
    completion_tokens: int = 0
    """Tokens that they wrote."""
    calls: int = 0
    """How often they were called."""
    estimated: int = 0
    """In how many of these calls tokens were worked out, because the server did not count them."""
    cost: str | None = None
    """What that cost, where prices are configured."""


@dataclass(kw_only=True)
class Timings:
    """Where the time went, in milliseconds; `own_ms` is total minus queue, model and database."""

    queued_ms: float = 0
    """Waiting for its turn."""
    briefing_ms: float = 0
    """Choosing what the model is told."""
    prompt_ms: float = 0
    """Writing the prompt."""
    model_ms: float = 0
    """Waiting for models."""
    guard_ms: float = 0
    """Ruling on text and plan."""
    review_ms: float = 0
    """Reviewing draft and result."""
    database_ms: float = 0
    """Waiting for the database."""
    answer_ms: float = 0
    """Wording the answer."""
    total_ms: float = 0
    """From the question to the end."""
    own_ms: float = 0
    """The total without queue, models and database."""
