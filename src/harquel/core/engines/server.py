"""What PostgreSQL and MariaDB have in common: connections that are bounded and read only."""

from __future__ import annotations

import datetime as dt
import threading
import time
from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any, ClassVar, Final, TypeVar

import sqlalchemy as sa
from sqlalchemy.exc import SQLAlchemyError

from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.fresh import Written
from harquel.core.domain.policy import Policy
from harquel.core.engines.address import ServerAddress
from harquel.core.engines.base import CheckStep
from harquel.core.engines.checking import Said, failed, knock, look_up, timed, warned, well
from harquel.core.engines.profiling import Sampling, profiled
from harquel.core.errors import SourceError

T = TypeVar("T")
CONNECT_S: Final = 5
STRUCTURE_S: Final = 60.0
LOOK_S: Final = 5.0
CLOCK_S: Final = 2.0
"""A difference of clocks beyond this is worth a word."""


class ServerEngine(ABC):
    """A database on a server. The password leaves this object only towards the server and the workers."""

    name: ClassVar[str]
    label: ClassVar[str]
    program: ClassVar[str]
    driver: ClassVar[str]
    stoppable: ClassVar[bool] = True

    def __init__(self, at: ServerAddress) -> None:
        self.at = at
        self._lock = threading.Lock()
        self._engine = sa.create_engine(
            f"{self.driver}://", creator=self._connect, poolclass=sa.pool.NullPool
        ).execution_options(isolation_level="AUTOCOMMIT")
        self._looking: sa.Connection | None = None

    @property
    def worker(self) -> Path:
        """See Engine."""
        return Path(__file__).resolve().parent.parent / "sandbox" / "workers" / self.program

    def address(self) -> dict[str, Any]:
        """See Engine."""
        return {"server": asdict(self.at)}

    def where(self) -> str:
        """See Engine."""
        return self.at.where()

    def close(self) -> None:
        """Drops the connection that is kept for looking."""
        with self._lock:
            if self._looking is not None:
                self._looking.close()
                self._looking = None

    # -- what an engine says of itself -----------------------------------------------------------

    @abstractmethod
    def _connect(self, seconds: float = STRUCTURE_S, tls: str | None = None) -> Any:
        """A driver's connection, read only, its statements limited to `seconds`. Raises the driver's errors."""

    @abstractmethod
    def _look(self, connection: sa.Connection) -> str:
        """See Engine.look."""

    @abstractmethod
    def _read(self, connection: sa.Connection) -> Catalog:
        """See Engine.structure."""

    @abstractmethod
    def _sampling(self, connection: sa.Connection, table: Table, columns: Sequence[str]) -> Sampling:
        """Where to look for the values of a table."""

    @abstractmethod
    def _limit(self, connection: sa.Connection, seconds: float) -> None:
        """Limits each of the statements to come."""

    @abstractmethod
    def _explained(self, error: BaseException) -> Said:
        """What a failed login or connection means and what to do."""

    @abstractmethod
    def _probe(self) -> Said:
        """Whether the program at the port speaks our protocol, and TLS as far as it is wanted."""

    @abstractmethod
    def _steps(self, connection: sa.Connection, policy: Policy) -> Iterator[CheckStep]:
        """The steps of the check that need a connection."""

    @abstractmethod
    def grant(self, table: str) -> str:
        """See Engine."""

    # -- reading ---------------------------------------------------------------------------------

    def look(self) -> str:
        """See Engine. Keeps its connection; one that broke is made anew once."""
        return self._looked(self._look)

    def written(self) -> Written | None:
        """See Engine."""
        at = self._looked(self._replayed)
        return Written(at, "replica") if at is not None else None

    def _replayed(self, connection: sa.Connection) -> dt.datetime | None:
        """Up to when a replica has what was written elsewhere; None where it is none, or does not say."""
        return None

    def _looked(self, look: Callable[[sa.Connection], T]) -> T:
        with self._lock:
            for last in (False, True):
                try:
                    if self._looking is None:
                        self._looking = self._engine.connect()
                        self._limit(self._looking, LOOK_S)
                    return look(self._looking)
                except SQLAlchemyError as error:
                    if self._looking is not None:
                        self._looking.invalidate()
                        self._looking.close()
                    self._looking = None
                    if last:
                        raise self._unreachable(error) from error
        raise AssertionError("unreachable")

    def structure(self) -> Catalog:
        """See Engine."""
        with self.connection() as connection:
            self._limit(connection, STRUCTURE_S)
            return self._read(connection)

    def profile(self, table: Table, columns: Sequence[str], seconds: float) -> Table:
        """See Engine. Views are not looked into: what they cost is not known."""
        if table.kind == "view" or table.problem or not table.readable:
            return table
        deadline = time.monotonic() + seconds
        with self.connection() as connection:
            try:
                self._limit(connection, seconds)
                sampling = self._sampling(connection, table, columns)
                return profiled(connection, table, columns, sampling, deadline)
            except SQLAlchemyError as error:
                return replace(table, problem=f"its values could not be looked at: {self._words(error)}")

    @contextmanager
    def connection(self) -> Iterator[sa.Connection]:
        """A connection of its own. Raises SourceError when there is none to be had, or when it breaks."""
        try:
            opened = self._engine.connect()
        except (SQLAlchemyError, OSError) as error:
            raise self._unreachable(error) from error
        try:
            yield opened
        except SQLAlchemyError as error:
            raise self._unreachable(error) from error
        finally:
            opened.close()

    def _words(self, error: BaseException) -> str:
        cause = getattr(error, "orig", None) or error
        said = cause.args[-1] if cause.args else cause
        return self.at.masked(" ".join(str(said).split()))[:300]

    def _unreachable(self, error: BaseException) -> SourceError:
        cause = getattr(error, "orig", None) or error
        _, _, said, remedy = self._explained(cause)
        return SourceError(said, remedy)

    # -- checking --------------------------------------------------------------------------------

    def check(self, policy: Policy) -> Iterator[CheckStep]:
        """See Engine: name, port, protocol and TLS, login, then what the account sees and may do."""
        with timed("name") as step:
            step.result, _ = look_up(self.at.host)
        yield step.made()
        if step.failed:
            return
        with timed("port") as step:
            step.result = knock(self.at.host, self.at.port, self.label)
        yield step.made()
        if step.failed:
            return
        with timed("TLS") as step:
            step.result = self._probe()
        yield step.made()
        if step.failed:
            return
        with timed("login") as step:
            try:
                opened = self._engine.connect()
                step.result = well(f"Signed in as {self.at.user} to the database {self.at.database}.")
            except (SQLAlchemyError, OSError) as error:
                step.result = self._explained(getattr(error, "orig", None) or error)
        yield step.made()
        if step.failed:
            return
        try:
            yield from self._steps(opened, policy)
        except SQLAlchemyError as error:
            yield CheckStep(
                "database", "failed", f"The server broke off: {self._words(error)}.", "Try again.", "broken"
            )
        finally:
            opened.close()

    def _check_tables(self, policy: Policy, catalog: Catalog) -> Said:
        """Whether what the policy exposes is there and may be read."""
        shown = policy.visible(catalog)
        closed = [t.name for t in catalog.tables if not t.readable and policy.shows(t.name, None)]
        broken = [t.name for t in catalog.tables if t.readable and t.problem and policy.shows(t.name, None)]
        if closed:
            remedy = "Run as an administrator: " + " ".join(self.grant(n) for n in closed[:5])
            more = f" and {len(closed) - 5} more" if len(closed) > 5 else ""
            return warned("not-granted", f"May not be read: {', '.join(closed[:5])}{more}.", remedy)
        if broken:
            return warned("broken-table", f"Cannot be read: {', '.join(broken[:5])}.", "Repair or withhold them.")
        missing = [
            p for p in policy.expose.tables if not set("*?[") & set(p) and catalog.table(p) is None
        ]  # fmt: skip
        if missing:
            remedy = "They are not there, or not granted: " + " ".join(self.grant(n) for n in missing[:5])
            return warned("not-there", f"Exposed but not to be seen: {', '.join(missing[:5])}.", remedy)
        if not shown.tables:
            return warned(
                "nothing-exposed", "No table of it is exposed.",
                "Name tables under expose in the policy, or grant SELECT on them.",
            )  # fmt: skip
        return well(f"{len(shown.tables)} tables and views are exposed and can be read.")


def unseen_said(error: SourceError, known: bool) -> list[str]:
    """Comments of an account script that could not look: why, and what it was written from instead."""
    why = " ".join(str(error).split())
    return [
        f"-- The database could not be looked at yet ({why})",
        "-- so that this stands on the last scan; write it anew once Harquel can log in."
        if known
        else "-- so that this opens all of it. Once Harquel can log in, write it anew for the exposed tables alone.",
    ]


def clock_said(apart_s: float) -> Said:
    """What a difference between the server's clock and ours means."""
    if abs(apart_s) > CLOCK_S:
        return warned(
            "clock-apart", f"The server's clock is {apart_s:+.1f} s from ours.",
            "Let both follow a time server: “today” and “now” would differ.",
        )  # fmt: skip
    return well(f"The clocks are {abs(apart_s) * 1000:.0f} ms apart.")


def writes_said(reasons: list[str], policy: Policy) -> Said:
    """What it means that the account could do more than read."""
    if not reasons:
        return well("The account may only read.")
    said = f"The account could do more than read: {'; '.join(reasons[:4])}."
    remedy = "Make an account that may only read: harquel source account NAME prints the script."
    make = failed if policy.require_read_only_account else warned
    return make("can-write", said, remedy)
