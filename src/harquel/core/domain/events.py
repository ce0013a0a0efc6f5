"""What happens to an inquiry, step by step: the one stream that everything else is made from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Protocol

from harquel.contract.events import InquiryEvent


@dataclass(frozen=True)
class Event:
    """One durable step. Its facts go into the ledger as they are, `texts` only as salted digests."""

    what: InquiryEvent
    texts: Mapping[str, str] = field(default_factory=dict)

    @property
    def kind(self) -> str:
        """The kind of its entry."""
        return self.what.entry_kind

    @property
    def facts(self) -> Mapping[str, Any]:
        """The facts of its entry."""
        return self.what.facts()


class Watcher(Protocol):
    """Where an inquiry tells what happens."""

    def durable(self, event: Event) -> None:
        """Records a step, in order."""

    def passing(self, piece: str | None) -> None:
        """A piece of the model's reply as it streams in; None: it begins anew. Kept by nobody."""

    def cancelled(self) -> bool:
        """Whether the asker wants it to stop."""


class Unwatched:
    """Tells nobody; for scripts and single tests."""

    def durable(self, event: Event) -> None:
        """Drops it."""

    def passing(self, piece: str | None) -> None:
        """Drops it."""

    def cancelled(self) -> bool:
        """Never."""
        return False
