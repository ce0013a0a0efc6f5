"""Sees to what was heard in chats: each message until its reply was taken there, or is given up.

What must hold: what was taken is seen to, whatever is killed meanwhile; seeing to it again asks nothing anew and says
nothing twice, since inquiry and reply bear the same keys.
"""

from __future__ import annotations

import datetime as dt
import threading
import time
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import Final

import structlog
from django.db import connection

from harquel.core.clock import utc_now
from harquel.service.outbox.outward import NotTaken
from harquel.service.records.writer import Writer

from .models import StoredHeard, StoredTurn

log = structlog.get_logger("harquel")
PAUSES_S: Final = (3, 15, 60, 300)
"""Seconds from a reply that was not taken to the next try; after the last it is given up."""
_AT_ONCE: Final = 16
_EACH: Final = 4
"""Messages of one person at once."""
_LOOK_S: Final = 1.0
_REST_S: Final = 30.0
_SWEEP_S: Final = 600.0
_KEPT: Final = dt.timedelta(hours=24)
_KEPT_TURNS: Final = dt.timedelta(days=90)


class Inbox:
    """Messages under way, and those that wait."""

    def __init__(self, writer: Writer) -> None:
        self._writer = writer
        self._see_to: Callable[[StoredHeard, threading.Event], None] = _nobody
        self._wake, self._end = threading.Event(), threading.Event()
        self._pool = ThreadPoolExecutor(_AT_ONCE, "chat")
        self._thread = threading.Thread(target=self._work, name="inbox", daemon=True)
        self._lock = threading.Lock()
        self._under_way: dict[int, str] = {}
        self._swept = time.monotonic()

    def start(self, see_to: Callable[[StoredHeard, threading.Event], None]) -> None:
        """From now on messages are seen to, beginning with what was left. `see_to` does what one wants; it raises
        NotTaken where a reply is not taken.
        """
        self._see_to = see_to
        self._thread.start()

    def wake(self) -> None:
        """Something new was heard."""
        self._wake.set()

    def close(self) -> None:
        """What is under way is broken off, and seen to again later."""
        self._end.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join(timeout=5)
        self._pool.shutdown(wait=False, cancel_futures=True)

    def _work(self) -> None:
        while not self._end.is_set():
            try:
                waits = self._round()
                self._sweep()
            except Exception:  # the records may be away for a moment: what was heard is seen to when they are back
                log.exception("the inbox stumbled")
                waits = True
            self._wake.wait(_LOOK_S if waits else _REST_S)
            self._wake.clear()
        connection.close()

    def _round(self) -> bool:
        """Begins with what is due; whether anything waits."""
        waiting = StoredHeard.objects.filter(state="waiting")
        with self._lock:
            busy, each = set(self._under_way), Counter(self._under_way.values())
        for one in waiting.filter(next_at__lte=utc_now()).exclude(pk__in=busy).order_by("pk")[:200]:
            whose = f"{one.chat} {one.theirs}"
            if len(busy) >= _AT_ONCE:
                break
            if each[whose] < _EACH:
                each[whose] += 1
                busy.add(one.pk)
                with self._lock:
                    self._under_way[one.pk] = whose
                self._pool.submit(self._one, one)
        return waiting.exists()

    def _one(self, heard: StoredHeard) -> None:
        state, pause = "done", 0
        try:
            self._see_to(heard, self._end)
        except NotTaken as error:
            if error.lasting or heard.tries >= len(PAUSES_S):
                state = "given-up"
                log.warning("a reply was not taken", chat=heard.chat, why=str(error))
            else:
                state, pause = "waiting", PAUSES_S[heard.tries]
        except Exception:
            state, pause = ("waiting", PAUSES_S[heard.tries]) if heard.tries < len(PAUSES_S) else ("given-up", 0)
            log.exception("a message of a chat was not seen to", chat=heard.chat)
        try:
            # What was broken off by our own end is begun again.
            if not self._end.is_set():
                self._writer.do(partial(_settled, heard.pk, state, pause))
        except Exception:
            log.exception("the inbox stumbled")
        finally:
            with self._lock:
                self._under_way.pop(heard.pk, None)
            self._wake.set()

    def _sweep(self) -> None:
        if time.monotonic() - self._swept < _SWEEP_S:
            return
        self._swept = time.monotonic()
        self._writer.do(_forget)


def _nobody(_: StoredHeard, __: threading.Event) -> None:
    raise RuntimeError("the inbox was not started")


def _settled(number: int, state: str, pause_s: int) -> None:
    found = StoredHeard.objects.filter(pk=number)
    if state == "waiting":
        one = found.get()
        found.update(tries=one.tries + 1, next_at=utc_now() + dt.timedelta(seconds=pause_s))
    else:
        found.update(state=state, body=b"")


def _forget() -> None:
    now = utc_now()
    StoredHeard.objects.filter(at__lt=now - _KEPT).exclude(state="waiting").delete()
    StoredTurn.objects.filter(at__lt=now - _KEPT_TURNS).delete()
