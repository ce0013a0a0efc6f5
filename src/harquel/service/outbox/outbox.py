"""Takes what waits in the outbox to where it is to go, again and again until it has arrived or is given up.

What must hold: what was accepted in a transaction is sent at least once, whatever is killed meanwhile; a try is counted
before it begins, so that one that comes again says so; it bears the same id each time, by which the other side tells it
from another.
"""

from __future__ import annotations

import datetime as dt
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import Any, Final

import structlog
from django.db import connection

from harquel.contract import events
from harquel.core.clock import utc_now
from harquel.service.ledger.append import append
from harquel.service.records.writer import Writer

from .carriers import Carriers
from .models import StoredSending
from .outward import WHOLE_S, NotTaken

log = structlog.get_logger("harquel")
PAUSES_S: Final = (5, 30, 120, 600, 3600, 21_600)
"""Seconds from a try that failed to the next; after the last it is given up."""
_AT_ONCE: Final = 4
_LOOK_S: Final = 1.0
_REST_S: Final = 30.0
"""Seconds between two looks while nothing waits."""


class Outbox:
    """`carriers` gives those that there are now, `may` whether the answer of an inquiry may still go somewhere, `still`
    whether everything is to stand still.
    """

    def __init__(
        self, writer: Writer, carriers: Callable[[], Carriers], may: Callable[[str, str], bool],
        still: Callable[[], bool],
    ) -> None:  # fmt: skip
        self._writer, self._carriers, self._may, self._still = writer, carriers, may, still
        self._wake, self._end = threading.Event(), threading.Event()
        self._pool = ThreadPoolExecutor(_AT_ONCE, "outbox")
        self._thread = threading.Thread(target=self._work, name="outbox", daemon=True)

    def start(self) -> None:
        """From now on it sends, beginning with what was left."""
        self._thread.start()

    def wake(self) -> None:
        """Something new waits."""
        self._wake.set()

    def close(self) -> None:
        """What is being sent comes to its end, or is sent again later."""
        self._end.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join(timeout=WHOLE_S + 1)
        self._pool.shutdown(wait=False, cancel_futures=True)

    def _work(self) -> None:
        self._pick_up()
        while not self._end.is_set():
            try:
                waits = self._round()
            except Exception:  # the records may be away for a moment: what waits there is sent when they are back
                log.exception("the outbox stumbled")
                waits = True
            self._wake.wait(_LOOK_S if waits else _REST_S)
            self._wake.clear()
        connection.close()

    def _pick_up(self) -> None:
        """What an earlier stop broke off in the middle of a try is tried again at once."""
        broken = StoredSending.objects.filter(state="waiting", tries__gt=0, said="")
        try:
            self._writer.do(lambda: broken.update(next_at=utc_now()))
        except Exception:  # it is tried again all the same, a little later
            log.exception("the outbox stumbled")

    def _round(self) -> bool:
        """Sends the oldest that is due of each destination; whether anything waits."""
        waiting = StoredSending.objects.filter(state="waiting")
        if self._still():
            return waiting.exists()
        due: dict[str, StoredSending] = {}
        for one in waiting.filter(next_at__lte=utc_now()).order_by("next_at")[:200]:
            due.setdefault(one.destination, one)
        list(self._pool.map(self._send, due.values()))
        return waiting.exists()

    def _send(self, one: StoredSending) -> None:
        to = self._carriers().to(one.destination)
        if to is None:
            self._ended(one, "given-up", "there is no way there any more")
            return
        if not all(self._may(key, one.destination) for key in [one.inquiry, *one.also] if key):
            self._ended(one, "given-up", "the policy of its source lets it go there no more")
            return
        if not one.body:
            self._ended(one, "given-up", "its rows are kept no more")
            return
        number = one.tries + 1
        # A try that is broken off is begun again only when it can no longer be under way.
        self._writer.do(partial(_begun, one.pk, number, utc_now() + dt.timedelta(seconds=2 * WHOLE_S)))
        one.tries = number
        if self._end.is_set():
            return
        try:
            to.carry(one.key, number, bytes(one.body))
        except NotTaken as error:
            if error.lasting or number > len(PAUSES_S):
                self._ended(one, "given-up", str(error))
            else:
                again = utc_now() + dt.timedelta(seconds=PAUSES_S[number - 1])
                self._writer.do(partial(_later, one.pk, str(error), again))
            return
        self._ended(one, "arrived", "")

    def _ended(self, one: StoredSending, state: str, why: str) -> None:
        self._writer.do(partial(_settled, one, state, why))
        if state != "arrived":
            log.warning("an answer was not taken", sending=one.key, destination=one.destination, why=why)


def _begun(number: int, tries: int, until: dt.datetime) -> None:
    StoredSending.objects.filter(pk=number).update(tries=tries, next_at=until, said="")


def _later(number: int, said: str, at: dt.datetime) -> None:
    StoredSending.objects.filter(pk=number).update(said=said[:300], next_at=at)


def _settled(one: StoredSending, state: str, why: str) -> None:
    gone: dict[str, Any] = {"body": b""} if state == "arrived" else {}
    StoredSending.objects.filter(pk=one.pk).update(state=state, said=why[:300], ended_at=utc_now(), **gone)
    what: events.Arrived | events.NotArrived
    if state == "arrived":
        what = events.Arrived(sending=one.key, destination=one.destination, tries=one.tries)
    else:
        what = events.NotArrived(sending=one.key, destination=one.destination, tries=one.tries, why=why)
    append(who="service", what=what, inquiry=one.inquiry or None)
