"""What every engine offers."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any, Protocol

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.policy import Policy


class Engine(Protocol):
    """A database that can be described and asked. Nothing here writes to it."""

    @property
    def name(self) -> str:
        """Engine name as in configuration, also the key of its SQL rules."""

    @property
    def worker(self) -> Path:
        """The program that runs statements for it, a file of the sandbox."""

    def address(self) -> dict[str, Any]:
        """What the worker needs to open it, as JSON."""

    def version(self) -> object:
        """Something cheap that differs once the structure may have changed. Raises SourceError."""

    def scan(self, policy: Policy, now: dt.datetime) -> Catalog:
        """Reads structure and samples, bounded in time. Raises SourceError."""
