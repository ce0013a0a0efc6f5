"""The inquiries under way: from the line that they wait in to the end that is put on record and told."""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import structlog

from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.person import Person
from harquel.service import metrics
from harquel.service.asking import AskingPool, Ticket
from harquel.service.bus import END, Bus
from harquel.service.conductors.pool import Conductors
from harquel.service.duties import Duties
from harquel.service.errors import note_of
from harquel.service.records.writer import Writer
from harquel.service.redrafting import redrafting
from harquel.service.sources.live import LiveSource

from .recording import RecordingWatcher, mark_working
from .unkept import keep_for_later

log = structlog.get_logger("harquel")


@dataclass(frozen=True)
class _Asked:
    inquiry: Inquiry
    now: dt.datetime
    person: Person
    released: str
    """Who let its held statement run."""


class UnderWay:
    """`threads` inquiries at once, `waiting` more in line."""

    def __init__(
        self, sources: Mapping[str, LiveSource], conductors: Conductors, writer: Writer, bus: Bus, threads: int,
        waiting: int, duties: Callable[[], Duties],
        ended: Callable[[Inquiry], None],
    ) -> None:  # fmt: skip
        self._duties, self._ended = duties, ended
        self._sources, self._conductors, self._writer, self._bus = sources, conductors, writer, bus
        self._asked: dict[str, _Asked] = {}
        self._open: set[str] = set()
        """Those of which nobody has been told yet that they have come to an end, or to be held."""
        self._whole: set[str] = set()
        """Those of which the whole result is being written, or will be."""
        self.pool = AskingPool(self._work, threads, waiting)

    def launch(self, ticket: Ticket, inquiry: Inquiry, now: dt.datetime, person: Person, released: str = "") -> None:
        """Puts a stored inquiry in line. The ticket was reserved before it was stored.

        `released` is who let a held statement run.
        """
        if inquiry.wants_whole:
            self._whole.add(inquiry.id)
        self._asked[inquiry.id] = _Asked(inquiry, now, person, released)
        self._open.add(inquiry.id)
        self.pool.enter(ticket, inquiry.id)

    def delivering(self) -> int:
        """Of how many the whole result is wanted."""
        return len(self._whole)

    def is_open(self, key: str) -> bool:
        """Whether its end is yet to be told on the bus; once this is False it stands in the records."""
        return key in self._open

    def _work(self, ticket: Ticket) -> None:
        try:
            self._carry_out(ticket)
        finally:
            self._open.discard(ticket.key)
            self._whole.discard(ticket.key)
            self._bus.tell(ticket.key, END)

    def _carry_out(self, ticket: Ticket) -> None:
        asked = self._asked.pop(ticket.key)
        inquiry = asked.inquiry
        inquiry.timings.queued_ms = round((time.monotonic() - ticket.taken_at) * 1000, 2)
        inquiry.state = "working"
        if not ticket.at_once:
            self._writer.submit(lambda: mark_working(inquiry.id), alone=False)
        watcher = RecordingWatcher(inquiry, self._writer, self._bus, ticket.cancelled.is_set, ticket.row)
        try:
            inquiry = self._conducted(asked, watcher)
        except Exception:  # a mistake of ours must not leave an inquiry hanging
            log.exception("inquiry broke", inquiry=inquiry.id)
            inquiry.state, inquiry.outcome, inquiry.answer, inquiry.trust = "ended", "failed", None, None
            inquiry.problem = note_of("internal", "problem-internal", inquiry.language)
        self._settle(inquiry, watcher)
        self._ended(inquiry)

    def _conducted(self, asked: _Asked, watcher: RecordingWatcher) -> Inquiry:
        inquiry, source = asked.inquiry, self._sources.get(asked.inquiry.source)
        if source is None:
            inquiry.state, inquiry.outcome = "ended", "failed"
            inquiry.problem = note_of("source-gone", "problem-source-gone", inquiry.language, name=inquiry.source)
            return inquiry
        core = redrafting(source.core, inquiry.redraft, self._duties())
        return self._conductors.conduct(inquiry, core, watcher, asked.now, asked.person, asked.released)

    def _settle(self, inquiry: Inquiry, watcher: RecordingWatcher) -> None:
        """Puts the end on record; it is told only then."""
        try:
            self._writer.do(lambda: watcher.store(inquiry), twice=True)
        except Exception as error:
            log.exception("the end of an inquiry could not be recorded", inquiry=inquiry.id)
            keep_for_later(inquiry, error, self._writer)
        if inquiry.state != "held":
            metrics.ended(inquiry)
            log.info(
                "inquiry ended", inquiry=inquiry.id, source=inquiry.source, outcome=inquiry.outcome,
                attempts=len(inquiry.attempts), total_ms=inquiry.timings.total_ms, own_ms=inquiry.timings.own_ms,
            )  # fmt: skip
