"""What goes on in the background for every source: looks, scans, examples checked, starters tried."""

from __future__ import annotations

import secrets
import threading
import time
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path

import structlog

from harquel.contract import events
from harquel.core.clock import utc_now
from harquel.core.curation import propose_starters
from harquel.core.curation.starters import MOST
from harquel.core.domain.events import Event
from harquel.core.domain.inquiry import Inquiry
from harquel.core.errors import CoreError
from harquel.service.bus import Bus
from harquel.service.conductors.pool import Conductors
from harquel.service.inquiries.recording import RecordingWatcher
from harquel.service.records.writer import Writer

from .live import LiveSource, given_starters, usable_examples
from .models import StoredStarter

log = structlog.get_logger("harquel")
_TRIES = 2 * MOST


def _working(source: str, fingerprint: str, wanted: list[str]) -> tuple[str, ...]:
    """Those that were tried with success, the best first."""
    found = StoredStarter.objects.filter(source=source, fingerprint=fingerprint, works=True, question__in=wanted)
    return tuple(s.question for s in found.order_by("place")[:MOST])


class Upkeep:
    """Two threads: one looks at the databases, the other tries starters while nobody waits for an answer."""

    def __init__(
        self, sources: Mapping[str, LiveSource], conductors: Conductors, writer: Writer, base: Path, every_s: float,
        busy: Callable[[], int], bus: Bus, tries: bool = True, tidy: Callable[[], None] = lambda: None,
    ) -> None:  # fmt: skip
        """`tidy` is done again and again beside it."""
        self._conductors, self._tries, self._tidy = conductors, tries, tidy
        self._sources, self._writer, self._base, self._every, self._busy = sources, writer, base, every_s, busy
        self._bus = bus
        self._end = threading.Event()
        self._wakes = (threading.Event(), threading.Event())
        self._next: dict[str, float] = {}
        loops = (("source-looks", self._look, self._look_pause), ("starters", self._try_starters, lambda: 5.0))
        self._threads = [
            threading.Thread(target=self._loop, args=(work, pause, wake), name=name, daemon=True)
            for (name, work, pause), wake in zip(loops, self._wakes, strict=True)
        ]

    def start(self) -> None:
        """From now on."""
        for thread in self._threads:
            thread.start()

    def wake(self) -> None:
        """There is something to do before the next look is due."""
        for wake in self._wakes:
            wake.set()

    def close(self) -> None:
        """Ends after what it is at."""
        self._end.set()
        self.wake()
        for thread in self._threads:
            if thread.is_alive():
                thread.join(timeout=10)

    def _loop(
        self, work: Callable[[LiveSource], None], pause: Callable[[], float], wake: threading.Event
    ) -> None:  # fmt: skip
        while not self._end.is_set():
            for name, source in list(self._sources.items()):
                if self._end.is_set():
                    return
                if not source.enabled:
                    continue
                try:
                    work(source)
                except CoreError as error:
                    log.warning("source cannot be looked at", source=name, error=str(error), hint=error.hint)
                except Exception:  # one source must not end the upkeep of the others
                    log.exception("upkeep broke", source=name)
            wake.wait(pause())
            wake.clear()

    def _look_pause(self) -> float:
        try:
            self._tidy()
        except Exception:  # what cannot be tidied up must not end the looks
            log.exception("tidying up broke")
        return 0.5 if self._unsettled() else min(self._every, 5.0)

    def _unsettled(self) -> bool:
        return any(s.enabled and s.keeper.known() is None for s in self._sources.values())

    def _look(self, source: LiveSource) -> None:
        name, now = source.name, time.monotonic()
        if now < self._next.get(name, 0.0):
            return
        self._next[name] = now + self._every
        if source.keeper.known() is None:
            source.keeper.scan("first")
        elif source.keeper.look():
            source.keeper.scan("changes")
        source.look_when_written()

    def _try_starters(self, source: LiveSource) -> None:
        """Tries what was not yet tried on this version of the catalog, while nobody waits for an answer."""
        catalog = source.keeper.known()
        if catalog is None:
            return
        index = source.core.describer.of(catalog)
        given = given_starters(source.spec, self._base)
        if not self._tries:
            source.starters = given[:MOST]
            return
        wanted = propose_starters(index, given, [e.question for e in usable_examples(source.name)])
        tried = {
            s.question: s for s in StoredStarter.objects.filter(source=source.name, fingerprint=catalog.fingerprint)
        }
        working = sum(tried[q].works for q in wanted if q in tried)
        for place, question in enumerate(wanted[:_TRIES]):
            if question in tried or working >= MOST:
                continue
            if self._end.is_set() or self._busy():
                break
            works = self._works(source, question)
            if self._end.is_set():
                break
            working += works
            keep = partial(self._keep, source.name, question, catalog.fingerprint, works, place)
            self._writer.do(keep)
            source.starters = _working(source.name, catalog.fingerprint, wanted)
        source.starters = _working(source.name, catalog.fingerprint, wanted)

    @staticmethod
    def _keep(source: str, question: str, fingerprint: str, works: bool, place: int) -> None:
        StoredStarter.objects.filter(source=source).exclude(fingerprint=fingerprint).delete()
        StoredStarter.objects.create(
            source=source, question=question, fingerprint=fingerprint, works=works, place=place
        )

    def _works(self, source: LiveSource, question: str) -> bool:
        """Whether a question is answered with something in it. What is sent to the model goes on record as always."""
        inquiry = Inquiry(
            id=f"starter-{secrets.token_hex(6)}", state="working", source=source.name, question=question,
            asked_by="harquel", asked_at=utc_now(),
        )  # fmt: skip
        watcher = RecordingWatcher(inquiry, self._writer, self._bus, self._end.is_set)
        watcher.durable(Event(events.StarterTried(source=source.name), {"question": question}))
        ended = self._conductors.conduct(inquiry, source.core, watcher, source.now(None))
        return ended.answer is not None and ended.trust == "clear" and bool(ended.answer.table.rows)
