"""What is asked back where a question can mean several things."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(kw_only=True)
class Choice:
    """One of the readings that a clarification offers; `reading` is what the question gains when it is meant so."""

    id: str
    """What to send as `choice`."""
    label: str
    """The reading, in short."""
    reading: str = ""
    """What the question gains when it is meant so."""
    question: str = ""
    """The whole question that is asked when it is chosen; empty where that is the one asked, with `reading`."""


@dataclass(kw_only=True)
class Clarify:
    """What we ask back."""

    question: str
    """What is asked back."""
    choices: list[Choice]
    """The readings to choose from."""
