"""What every engine offers."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal, Protocol

from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.fresh import Written
from harquel.core.domain.policy import Policy


@dataclass(frozen=True)
class CheckStep:
    """One step of the connection check. `fault` names what is wrong, for programs; empty when all is well."""

    name: str
    verdict: Literal["well", "warning", "failed", "skipped"]
    said: str
    remedy: str = ""
    fault: str = ""
    elapsed_ms: float = 0.0


class Engine(Protocol):
    """A database that can be described and asked. Nothing here writes to it."""

    @property
    def name(self) -> str:
        """Engine name as in configuration, also the key of its SQL rules."""

    @property
    def worker(self) -> Path:
        """The program that runs statements for it, a file of the sandbox."""

    @property
    def stoppable(self) -> bool:
        """Whether a statement goes on at a server when its worker is gone, so that it has to be stopped there."""

    def address(self) -> dict[str, Any]:
        """What the worker needs to open it, as JSON. May hold a password: for the worker's pipe only."""

    def where(self) -> str:
        """Where it is, for people; without any secret."""

    def look(self) -> str:
        """A digest that differs once the structure may have changed. Raises SourceError."""

    def written(self) -> Written | None:
        """Up to when what it shows was written, where it is a file or a replica; None: it is where data are written.

        Raises SourceError.
        """

    def structure(self) -> Catalog:
        """Tables, columns, keys; no value of any row. One broken table stops nothing. Raises SourceError."""

    def profile(self, table: Table, columns: Sequence[str], seconds: float) -> Table:
        """The table with its row count and with what the values of `columns` look like.

        Bounded by `seconds`; what did not fit is left out. A table that is gone or cannot be read comes
        back with its `problem`. Raises SourceError only when the database as a whole is out of reach.
        """

    def check(self, policy: Policy) -> Iterator[CheckStep]:
        """The connection check, step by step; ends after a step that failed and that the next ones need."""

    def account_script(self, policy: Policy, account: str, whole_schema: bool, known: Catalog | None = None) -> str:
        """SQL for an administrator: an account that may read what the policy exposes and nothing else.

        Where our account cannot log in yet, it is written from what is `known`, or for the whole of the database.
        """

    def grant(self, table: str) -> str:
        """The statement that would let our account read a table."""

    def close(self) -> None:
        """Lets go of what it keeps open."""
