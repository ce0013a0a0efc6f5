"""Has watched questions asked when they are due.

What must hold: a time that has come makes one run, however many look; after a time without a service the last of those
that were missed is caught up and no other; what was begun and broken off is begun again, under the same keys.
"""

from __future__ import annotations

import datetime as dt
import threading
from collections.abc import Callable
from functools import partial
from typing import Final

import structlog
from django.db import connection

from harquel.core.clock import utc_now
from harquel.core.watching import NotWhen, When
from harquel.service.records.writer import Writer

from .models import StoredRun, StoredWatch

log = structlog.get_logger("harquel")
_LOOK_S: Final = 1.0
_REST_S: Final = 20.0
LATE: Final = dt.timedelta(minutes=2)
"""From so long after its time on a run counts as caught up."""
MOST_TRIES: Final = 5
_KEPT: Final = dt.timedelta(days=400)
_SWEEP: Final = dt.timedelta(hours=6)


class Clock:
    """One thread that looks, and asks one question after another: after a downtime, too, there is never a herd."""

    def __init__(self, writer: Writer, still: Callable[[], bool]) -> None:
        self._writer, self._still = writer, still
        self._wake, self._end = threading.Event(), threading.Event()
        self._run: Callable[[StoredRun, threading.Event], None] = _nobody
        self._thread = threading.Thread(target=self._work, name="watches", daemon=True)
        self._swept = utc_now()

    def start(self, run: Callable[[StoredRun, threading.Event], None]) -> None:
        """From now on they are asked; `run` does it, and settles the run."""
        self._run = run
        self._thread.start()

    def wake(self) -> None:
        """A time has changed."""
        self._wake.set()

    def close(self) -> None:
        """What is under way is broken off, and begun again later."""
        self._end.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join(timeout=5)

    def _work(self) -> None:
        self._guarded(self._pick_up)
        while not self._end.is_set():
            pause = self._guarded(self._round)
            self._wake.wait(_LOOK_S if pause is None else pause)
            self._wake.clear()
        connection.close()

    def _guarded(self, job: Callable[[], float]) -> float | None:
        try:
            return job()
        except Exception:  # the records may be away for a moment: what is due then is asked when they are back
            log.exception("the clock of watched questions stumbled")
            return None

    def _pick_up(self) -> float:
        self._writer.do(lambda: StoredRun.objects.filter(state="running").update(state="waiting"))
        return 0.0

    def _round(self) -> float:
        """Does what is due; the seconds until it has to look again."""
        if self._still():
            return _LOOK_S
        now = utc_now()
        for watch in StoredWatch.objects.filter(state="on", next_at__lte=now)[:500]:
            self._writer.do(partial(_due, watch.pk, watch.next_at, now))
        for run in StoredRun.objects.filter(state="waiting").select_related("watch").order_by("due_at", "pk")[:500]:
            if self._end.is_set() or self._still():
                break
            self._writer.do(partial(_begun, run.pk))
            run.tries += 1
            try:
                self._run(run, self._end)
            except Exception:
                log.exception("a watched question broke", watch=run.watch.key)
                self._writer.do(partial(_put_back, run.pk))
        if now - self._swept > _SWEEP:
            self._swept = now
            self._writer.do(lambda: StoredRun.objects.filter(state="done", due_at__lt=now - _KEPT).delete())
        upcoming = StoredWatch.objects.filter(state="on").order_by("next_at").values_list("next_at", flat=True).first()
        left = (upcoming - utc_now()).total_seconds() if upcoming is not None else _REST_S
        return min(_REST_S, max(0.05, left))


def _due(number: int, was: dt.datetime, now: dt.datetime) -> None:
    """Makes the run of a time that has come, and says when the next is. Runs inside the writer."""
    watch = StoredWatch.objects.filter(pk=number, state="on", next_at=was).first()
    if watch is None:
        return  # somebody else has seen to it
    when = When(watch.cron, watch.zone)
    last = when.latest(was - dt.timedelta(seconds=1), now) or was
    StoredRun.objects.get_or_create(watch=watch, due_at=last, defaults={"late": now - last > LATE})
    try:
        watch.next_at = when.after(max(last, now))
    except NotWhen:
        watch.state, watch.why_ended = "ended", "its time never comes again"
    watch.save(update_fields=["next_at", "state", "why_ended"])


def _begun(number: int) -> None:
    run = StoredRun.objects.get(pk=number)
    run.state, run.tries = "running", run.tries + 1
    run.save(update_fields=["state", "tries"])


def _put_back(number: int) -> None:
    """It is begun again, a few times. Runs inside the writer."""
    run = StoredRun.objects.get(pk=number)
    run.state = "waiting"
    if run.tries >= MOST_TRIES:
        run.state, run.outcome, run.why, run.ended_at = "done", "failed", "it broke; the log has why", utc_now()
    run.save(update_fields=["state", "outcome", "why", "ended_at"])


def _nobody(_: StoredRun, __: threading.Event) -> None:
    raise RuntimeError("the clock was not started")
