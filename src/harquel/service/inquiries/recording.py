"""Writes what happens to an inquiry: events into the ledger as they come, the end in one transaction."""

from __future__ import annotations

import threading
from concurrent.futures import Future
from typing import Any

from harquel import contract
from harquel.contract import events
from harquel.core.domain.events import Event
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.record import written
from harquel.core.errors import CoreError
from harquel.service.bus import ANEW, Bus
from harquel.service.ledger.append import append
from harquel.service.ledger.digests import digest_of
from harquel.service.records.writer import Writer

from .models import ResultRows, StoredInquiry


class RecordingWatcher:
    """The core's watcher: every durable step becomes a ledger entry, in order, without waiting for it."""

    def __init__(
        self, inquiry: Inquiry, writer: Writer, bus: Bus, is_cancelled: Any, row: int | None = None
    ) -> None:  # fmt: skip
        self._key, self._who, self._row = inquiry.id, inquiry.asked_by, row
        self._writer, self._bus, self._is_cancelled = writer, bus, is_cancelled
        self._fault: BaseException | None = None
        self._lock = threading.Lock()
        self._unwritten = 0
        self._held: list[str] = []
        """Pieces that came while the entry before them was not in the records yet."""

    def durable(self, event: Event) -> None:
        """Queues the entry. Raises CoreError once an earlier one could not be written."""
        if self._fault is not None:
            raise CoreError(
                f"The ledger cannot be written: {self._fault}.",
                "Check the disk of the data directory; nothing is answered without it.",
            )
        with self._lock:
            self._bus.settle(self._key)
            self._unwritten += 1
            self._held = []
        job = self._writer.submit(
            lambda: append(who=self._who, what=event.what, inquiry=self._key, texts=event.texts),
            alone=False,
        )
        job.add_done_callback(self._written)

    def _written(self, job: Future[int]) -> None:
        self._fault = self._fault or job.exception()
        with self._lock:
            self._unwritten -= 1
            self._bus.tell(self._key)
            if self._held and not self._unwritten:
                self._bus.tell(self._key, "".join(self._held))
                self._held = []

    def store(self, inquiry: Inquiry) -> None:
        """The end of it, or the statement that waits; nothing where an entry before it could not be written.

        Runs inside the writer, after all of them."""
        if self._fault is not None:
            raise self._fault
        if inquiry.state == "held":
            store_held(inquiry)
        else:
            store_end(inquiry, self._row)

    def passing(self, piece: str | None) -> None:
        """To the live stream only, after what happened before it."""
        with self._lock:
            if self._unwritten and piece is None:
                self._held = []
            elif self._unwritten:
                self._held.append(piece or "")
            else:
                self._bus.tell(self._key, ANEW if piece is None else piece)

    def cancelled(self) -> bool:
        """Whether the asker, or the end of the service, stops it."""
        return bool(self._is_cancelled())


def mark_working(key: str) -> None:
    """Runs inside the writer."""
    StoredInquiry.objects.filter(key=key).update(state="working")


def store_held(inquiry: Inquiry) -> None:
    """The statement that waits, with its ledger entry. Runs inside the writer."""
    assert inquiry.hold is not None
    record = written(inquiry)
    held_so = {"state": "held", "record": record, "standalone_question": inquiry.standalone_question}
    StoredInquiry.objects.filter(key=inquiry.id).update(**held_so)
    held = events.WasHeld(policy_line=inquiry.hold.policy_line, reason=inquiry.hold.reason, record=digest_of(record))
    sql = inquiry.attempts[-1].rewritten_sql or ""
    append(who=inquiry.asked_by, what=held, inquiry=inquiry.id, texts={"sql": sql})


def _without_rows(holder: dict[str, Any] | None) -> list[Any] | None:
    """Takes the rows out of a record's table; None where there is no table."""
    table = (holder or {}).get("table")
    if table is None:
        return None
    rows, table["rows"] = table["rows"], []
    return rows


def store_end(inquiry: Inquiry, row: int | None = None) -> None:
    """Outcome, rows and ledger entry in one transaction. Runs inside the writer.

    `row` is the inquiry's number in the records, where that is known.
    """
    record = written(inquiry)
    stored = StoredInquiry.objects.filter(key=inquiry.id)
    texts, rows = {}, {}
    if inquiry.answer is not None and record["answer"] is not None:
        rows = {"rows": _without_rows(record["answer"]), "second": _without_rows(record["second_opinion"])}
        ResultRows.objects.bulk_create(
            [ResultRows(inquiry_id=row or stored.values_list("pk", flat=True).get(), **rows)],
            update_conflicts=True, unique_fields=["inquiry"], update_fields=list(rows),
        )  # fmt: skip
        texts["answer"] = inquiry.answer.text
    if inquiry.clarify is not None:
        texts["asked_back"] = inquiry.clarify.question
    if inquiry.problem is not None:
        texts["problem"] = inquiry.problem.title
    ended_so = {"state": "ended", "outcome": inquiry.outcome, "trust": inquiry.trust, "record": record}
    if not stored.update(**ended_so, standalone_question=inquiry.standalone_question):
        raise StoredInquiry.DoesNotExist(inquiry.id)
    digests = {name: digest_of(found) for name, found in rows.items() if found is not None}
    ended = events.Ended(
        outcome=inquiry.outcome, trust=inquiry.trust, attempts=len(inquiry.attempts), silenced=inquiry.silenced,
        problem=inquiry.problem.type if inquiry.problem else None,
        policy_line=inquiry.problem.policy_line if inquiry.problem else None,
        caveats=[c.rule for c in inquiry.answer.caveats] if inquiry.answer else [],
        record=digest_of(record), rows_digest=digests.get("rows"),
        second_digest=digests.get("second"),
        second_agrees=inquiry.second_opinion.agrees if inquiry.second_opinion else None,
        usage=contract.Usage(**vars(inquiry.usage)), timings=contract.Timings(**vars(inquiry.timings)),
    )  # fmt: skip
    append(who=inquiry.asked_by, what=ended, inquiry=inquiry.id, texts=texts)
