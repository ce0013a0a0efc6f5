"""What happens to an inquiry, step by step: the one stream that everything else is made from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Protocol


@dataclass(frozen=True)
class Event:
    """One durable step. `facts` go into the ledger as they are; `texts` only as salted digests.

    Kinds: accepted, started, briefed, prompted, replied, ruled, found, planned, ran, stumbled, ended.
    """

    kind: str
    facts: Mapping[str, Any] = field(default_factory=dict)
    texts: Mapping[str, str] = field(default_factory=dict)


class Watcher(Protocol):
    """Where an inquiry tells what happens."""

    def durable(self, event: Event) -> None:
        """Records a step, in order."""

    def passing(self, piece: str) -> None:
        """A piece of the model's reply as it streams in; kept by nobody."""

    def cancelled(self) -> bool:
        """Whether the asker wants it to stop."""


class Unwatched:
    """Tells nobody; for scripts and single tests."""

    def durable(self, event: Event) -> None:
        """Drops it."""

    def passing(self, piece: str) -> None:
        """Drops it."""

    def cancelled(self) -> bool:
        """Never."""
        return False
