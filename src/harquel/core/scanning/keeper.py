"""Holds the newest catalog of a source and follows the database: looks, scans again, remembers versions."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final, Literal

from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.policy import Policy
from harquel.core.engines.base import Engine
from harquel.core.errors import Cancelled, CoreError, SourceError
from harquel.core.language.say import said_as
from harquel.core.scanning.scan import PROFILE_S, Progress, ScanOrder, run_scan
from harquel.core.scanning.store import CatalogStore, MemoryStore

CHEAP_S: Final = 0.02
"""A look that takes no longer is made before each inquiry; otherwise in the background only."""
FIRST_WAIT_S: Final = 60.0
CHANGE_WAIT_S: Final = 15.0
ScanState = Literal["running", "done", "stopped", "failed"]


@dataclass
class ScanRun:
    """A scan under way or ended. Read from any thread."""

    number: int
    kind: Literal["first", "full", "changes"]
    state: ScanState = "running"
    progress: Progress = field(default_factory=lambda: Progress("structure"))
    started: float = field(default_factory=time.time)
    ended: float | None = None
    problem: str = ""
    hint: str = ""
    resumed: int = 0
    """Tables that an interrupted scan had already looked into."""
    stop: threading.Event = field(default_factory=threading.Event)


class CatalogKeeper:
    """The catalog of one source. One scan at a time; the old catalog serves until the new one is whole."""

    def __init__(
        self,
        engine: Engine,
        policy: Callable[[], Policy],
        store: CatalogStore | None = None,
        changed: Callable[[Catalog | None, Catalog], None] = lambda old, new: None,
        told: Callable[[ScanRun], None] = lambda run: None,
        profile_s: float = PROFILE_S,
        mark: Callable[[Catalog], Catalog] = lambda catalog: catalog,
    ) -> None:
        """`mark` adds what is known beside the database, each time that the catalog is asked for.

        `changed` hears of each new version, `told` of the progress of scans; both from the scan's thread.
        `profile_s`: seconds that looking into the values of one table may take.
        """
        self._profile_s, self._mark = profile_s, mark
        self.engine, self._policy = engine, policy
        self._store: CatalogStore = store or MemoryStore()
        self._changed, self._told = changed, told
        self._news = threading.Condition()
        self._catalog = self._store.latest()
        self._bare: Catalog | None = None
        self._version: str | None = None
        self._looking = threading.Lock()
        self._looked_at, self._look_took, self._seen = float("-inf"), 0.0, ""
        self._runs = 0
        self._again = False
        self.last: ScanRun | None = None
        self.out_of_reach: SourceError | None = None
        """Why the last look failed."""

    # -- asking for the catalog ------------------------------------------------------------------

    def current(self, stopped: Callable[[], bool] = lambda: False) -> Catalog:
        """The catalog to answer by. Looks first where that is cheap; a change is waited for.

        Raises SourceError when there is no catalog and none is to be had, Cancelled when `stopped` says so.
        """
        if self._catalog is None or self._look_took <= CHEAP_S:
            return self.refreshed(stopped)
        return self._mark(self._catalog)

    def refreshed(self, stopped: Callable[[], bool] = lambda: False) -> Catalog:
        """As `current`, but looks in any case. Raises SourceError, Cancelled."""
        if self._catalog is None:
            return self._mark(self._after(self.scan("first"), FIRST_WAIT_S, stopped))
        if self.look():
            return self._mark(self._after(self.scan("changes"), CHANGE_WAIT_S, stopped))
        return self._mark(self._catalog)

    def known(self) -> Catalog | None:
        """What is there without looking or waiting."""
        found = self._catalog or self._bare
        return self._mark(found) if found is not None else None

    def look(self) -> bool:
        """Whether the database has moved on since the last scan. Raises SourceError."""
        asked = time.monotonic()
        with self._looking:
            # Whoever waited for a look that began after the question came needs none of his own.
            if self._looked_at < asked:
                self._looked_at = time.monotonic()
                try:
                    self._seen = self.engine.look()
                except SourceError as error:
                    self.out_of_reach = error
                    raise
                self.out_of_reach = None
                self._look_took = time.monotonic() - self._looked_at
            version = self._seen
        with self._news:
            if self._version is None and self._catalog is not None:
                # The first look of this process: only the structure can say whether the records are still true.
                return True
            return version != self._version

    def _after(self, run: ScanRun, seconds: float, stopped: Callable[[], bool]) -> Catalog:
        deadline = time.monotonic() + seconds
        with self._news:
            while run.state == "running" and time.monotonic() < deadline:
                self._news.wait(0.1)
                if stopped():
                    raise Cancelled("stopped while the catalog was being read")
            if run.state == "done" and self._catalog is not None:
                return self._catalog
            if run.state == "running" and self._bare is not None:
                # The structure is enough to answer by; what the values look like comes later.
                return self._bare
            if run.state == "failed":
                raise SourceError(run.problem, run.hint)
            if self._catalog is not None:
                return self._catalog
        at = run.progress
        message = "error-scan-under-way" if at.tables else "error-scan-begun"
        raise SourceError(said_as(message, done=str(at.done), tables=str(at.tables)), said_as(f"{message}.hint"))

    # -- scanning --------------------------------------------------------------------------------

    def scan(self, kind: Literal["first", "full", "changes"] = "full") -> ScanRun:
        """Starts a scan in the background, or returns the one that is under way."""
        with self._news:
            if self.last is not None and self.last.state == "running":
                return self.last
            self._runs += 1
            run = self.last = ScanRun(self._runs, "first" if self._catalog is None else kind)
        threading.Thread(target=self._work, args=(run,), name="catalog-scan", daemon=True).start()
        return run

    def policy_changed(self) -> None:
        """Scans for what is now open or closed; after the scan under way, which began with the old policy."""
        with self._news:
            if self.last is not None and self.last.state == "running":
                self._again = True
                return
        self.scan("changes")

    def stop(self) -> bool:
        """Ends the scan under way after its current table; whether there was one."""
        run = self.last
        if run is None or run.state != "running":
            return False
        run.stop.set()
        return True

    def wait(self, seconds: float) -> None:
        """Until no scan is under way, or time is up."""
        deadline = time.monotonic() + seconds
        with self._news:
            while self.last is not None and self.last.state == "running" and time.monotonic() < deadline:
                self._news.wait(0.1)

    def _work(self, run: ScanRun) -> None:
        old, policy = self._catalog, self._policy()
        try:
            version = self.engine.look()
            parts = self._store.parts()
            known: dict[str, Table] = {}
            if old is not None and run.kind == "changes":
                known |= {t.name: t for t in old.tables}
            known |= parts
            run.resumed = len(parts)

            def structured(catalog: Catalog) -> None:
                with self._news:
                    self._bare = catalog
                    self._news.notify_all()

            def tell(progress: Progress) -> None:
                run.progress = progress
                self._told(run)

            order = ScanOrder(self.engine, policy, known, self._profile_s)
            found = run_scan(order, tell, structured, self._store.keep_part, run.stop.is_set)
            if old is not None and old.fingerprint == found.fingerprint and old.tables == found.tables:
                saved = old
                self._store.drop_parts()
            else:
                saved = self._store.save(found)
            with self._news:
                self._catalog, self._version, self._bare = saved, version, None
            if saved is not old:
                self._changed(old, saved)
            self._end(run, "done")
        except Cancelled:
            # What was seen stays: the next scan goes on from there.
            self._end(run, "stopped")
        except CoreError as error:
            run.problem, run.hint = str(error), error.hint
            self._end(run, "failed")
        except Exception:  # a mistake of ours must not leave askers waiting
            run.problem, run.hint = "The scan broke on our side.", "Tell the operator; the log says more."
            self._end(run, "failed")
            raise

    def _end(self, run: ScanRun, state: ScanState) -> None:
        with self._news:
            run.state, run.ended = state, time.time()
            if state != "done":
                self._bare = None
            again, self._again = self._again and state == "done", False
            self._news.notify_all()
        self._told(run)
        if again:
            self.scan("changes")
