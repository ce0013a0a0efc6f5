"""The conductors: made by forking a clean process, lent to one job at a time, ended when they overstep.

A new one costs milliseconds: it is forked from a nursery that has loaded our code. A task queue on other hosts could
stand here instead: a job and what is said about it are JSON, and a source is asked for by name.
"""

from __future__ import annotations

import datetime as dt
import json
import signal
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from functools import partial
from itertools import count
from typing import Any, Final
from weakref import WeakKeyDictionary

import structlog

from harquel.core.curation import Checked
from harquel.core.domain import record
from harquel.core.domain.delivery import Delivered
from harquel.core.domain.events import Unwatched, Watcher
from harquel.core.domain.inquiry import Inquiry, ProblemNote
from harquel.core.domain.person import NOBODY, Person
from harquel.core.domain.reviewed import Reviewed
from harquel.core.domain.statements import RuledStatement
from harquel.core.errors import Cancelled, ComputingError
from harquel.core.inquiry.source import Source
from harquel.core.language.say import in_language, said_as
from harquel.core.llm.model import LanguageModel
from harquel.service.metrics import CONDUCTORS_LOST

from . import messages as say
from .attend import TOO_MUCH, Broke, Lost, Mistake, Turn, Turns, attend
from .conductor import Conductor
from .desk import Desk, Parcels, Paying, Recall, SoFar, unpaid
from .nursery import Nursery

log = structlog.get_logger("harquel")
_BESIDE_S: Final = 20.0
"""Seconds that a statement that somebody wrote waits to be looked at."""
DeliverTo = Callable[[str, Source, RuledStatement, Callable[[], bool], float], Delivered]
"""Writes the whole result of an inquiry away; see core.inquiry.source.Deliver."""
_IDLE_S: Final = 60.0
"""Seconds that one beyond those kept ready may wait for work."""


@dataclass(frozen=True)
class Limits:
    """What one job may take of the machine."""

    computing_s: float = 10.0
    """Seconds of processor time."""
    memory_bytes: int = 1024**3


class Conductors:
    """Lends conductors to whoever calls; `warm` are always ready. For use by many threads."""

    def __init__(self, warm: int, limits: Limits | None = None, prepare: str = "") -> None:
        """`prepare` (module:function) is called in each conductor before its first job; only tests use it."""
        limits = limits or Limits()
        self._warm = warm
        self.nursery = Nursery(limits.computing_s, limits.memory_bytes, prepare)
        self.deliver: DeliverTo | None = None
        self.paying: Callable[[str, str, str], Paying] | None = None
        """Of a person, a source and an inquiry: what is put around the calls of models for it."""
        """Where whole results are written."""
        self.recalling: Callable[[Inquiry, Source], Recall | None] | None = None
        """What an inquiry of a source may take again."""
        self._lock = threading.Lock()
        self._idle: list[Conductor] = []
        self._all: set[Conductor] = set()
        self._closed = False
        self._parcels = Parcels()
        self._lives: WeakKeyDictionary[object, int] = WeakKeyDictionary()
        self._count = count(1)
        # What is asked beside inquiries waits for its turn, so that its number has a bound, too.
        self._beside = threading.Semaphore(max(2, warm))
        # One more than compute: a turn lasts until a thread of ours has heard that it is over.
        self._turns = Turns(warm + 1, 2 * warm + 1)

    def begin(self) -> None:
        """Starts the nursery and the first conductors without waiting for them; best before there is any thread."""
        self.nursery.begin()
        threading.Thread(target=self._first, name="conductors-begin", daemon=True).start()

    def pids(self) -> list[int]:
        """Process ids of all that live."""
        with self._lock:
            return [c.pid for c in self._all]

    def close(self) -> None:
        """Ends all of them."""
        with self._lock:
            self._closed = True
            every = list(self._all)
            self._all.clear()
            self._idle.clear()
        for conductor in every:
            conductor.end(lost=False)
        self.nursery.close()

    # -- jobs ------------------------------------------------------------------------------------

    def conduct(
        self, inquiry: Inquiry, source: Source, watcher: Watcher, now: dt.datetime, person: Person | None = None,
        released_by: str = "",
    ) -> Inquiry:  # fmt: skip
        """As core's `conduct`, or `go_on` where somebody released the statement that it waits with.

        Where the conductor is lost, what it had told so far comes back, ended with the reason.
        """
        job: dict[str, Any] = {
            "kind": "go_on" if released_by else "conduct", "now": now.isoformat(), "released_by": released_by,
            "person": person or Person(inquiry.asked_by), "inquiry": record.written(inquiry),
        }  # fmt: skip
        so_far = SoFar()
        started = time.monotonic()
        try:
            done = record.read(self._carry_out(job, source, watcher, so_far, inquiry))
            # Waiting for a processor is waiting in line, wherever the line is.
            done.timings.queued_ms = round(done.timings.queued_ms + so_far.waited_ms, 2)
            done.timings.total_ms = round(done.timings.total_ms + so_far.waited_ms, 2)
            return done
        except Cancelled:
            log.warning("a conductor did not hear that it was to stop", inquiry=inquiry.id)
            end: tuple[str, str, str, str] = ("cancelled", "cancelled", said_as("end-cancelled"), "")
        except ComputingError as error:
            log.warning(
                "a conductor was lost", inquiry=inquiry.id, source=source.name, why=error.fault, said=str(error)
            )
            CONDUCTORS_LOST.labels(error.fault).inc()
            kind = "conductor-lost" if error.fault == "lost" else "too-much-computing"
            end = ("failed", kind, error.said, error.hint)
        except Mistake:  # of ours; it must not leave an inquiry hanging
            log.exception("inquiry broke", inquiry=inquiry.id)
            end = ("failed", "internal", said_as("problem-internal"), said_as("problem-internal.hint"))
        known = record.read(so_far.inquiry) if so_far.inquiry is not None else inquiry
        known.state, known.outcome = "ended", end[0]  # type: ignore[assignment]
        known.answer = known.trust = None
        title, hint = (in_language(words, known.language) for words in end[2:])
        known.problem = ProblemNote(type=end[1], title=title, hint=hint)
        known.timings.total_ms = round(known.timings.queued_ms + (time.monotonic() - started) * 1000, 2)
        return known

    def review(self, sql: str, source: Source, now: dt.datetime, person: Person = NOBODY) -> Reviewed:
        """As core's `review_sql`. Raises what that raises, ComputingError."""
        job = {"kind": "review", "sql": sql, "now": now.isoformat(), "person": person}
        with self._one_beside():
            return say.REVIEWED.validate_python(self._carry_out(job, source, Unwatched(), SoFar()))

    def check(self, sql: str, source: Source) -> Checked:
        """As core's `check_example`. Raises what that raises, ComputingError."""
        with self._one_beside():
            found = self._carry_out({"kind": "check", "sql": sql}, source, Unwatched(), SoFar())
        return Checked(found["state"], found["said"], tuple(found["tables"]))

    # -- inside ----------------------------------------------------------------------------------

    @contextmanager
    def _one_beside(self) -> Iterator[None]:
        """Waits for its turn among what is asked beside inquiries. Raises ComputingError when that takes too long."""
        if not self._beside.acquire(timeout=_BESIDE_S):
            raise ComputingError(said_as("problem-reviews-busy"), said_as("problem-reviews-busy.hint"), "busy")
        try:
            yield
        finally:
            self._beside.release()

    def _carry_out(
        self, job: dict[str, Any], source: Source, watcher: Watcher, so_far: SoFar, inquiry: Inquiry | None = None
    ) -> dict[str, Any]:
        for last in (False, True):
            conductor = self._take()
            whole = inquiry is not None and inquiry.wants_whole
            # Whatever a conductor says: a file is written only for whoever asked for one.
            deliver = partial(self.deliver, inquiry.id, source) if whole and inquiry and self.deliver else None
            paying = self.paying(inquiry.asked_by, source.name, inquiry.id) if inquiry and self.paying else unpaid
            recall = self.recalling(inquiry, source) if inquiry and self.recalling else None
            line, shelf = conductor.line, conductor.shelf
            desk = Desk(line, shelf, self._parcels, source, watcher, so_far, deliver, paying, recall)
            limit_s = source.policy.allowed_s(whole)
            turn = Turn(self._turns)
            try:
                written = self._written(job, source, conductor, desk)
                body = attend(conductor, desk, written, watcher, limit_s, turn)
                so_far.waited_ms = turn.waited_s * 1000
            except Lost as lost:
                code = self._retire(conductor, lost=True)
                # One that was ended while it had nothing to do says nothing about the job.
                if not last and not so_far.steps and code != -signal.SIGXCPU:
                    continue
                raise self._why(code) from lost
            except Broke as broke:
                self._give_back(conductor)
                raise broke.error from None
            except BaseException:
                self._retire(conductor)
                raise
            self._give_back(conductor)
            found: dict[str, Any] = json.loads(body)
            return found
        raise AssertionError("a second loss is told above")

    def _written(
        self, job: dict[str, Any], source: Source, conductor: Conductor, desk: Desk
    ) -> tuple[say.Job, list[bytes | None]]:
        described, body = conductor.shelf.kept(self._parcels.described(source.describer))
        # Before there is a turn to be taken: whoever looks at a slow database keeps nobody from computing.
        ahead, bodies = desk.ahead(_FIRST if job["kind"] == "conduct" else ())
        with self._lock:
            # By what runs its statements: policy and notes may change, the database behind them does not.
            lives = self._lives.get(source.sandbox)
            if lives is None:
                lives = self._lives[source.sandbox] = next(self._count)
        made = say.Job(
            source=source.name, lives=lives, engine=source.engine, described=described,
            model=_known_of(source.model), second=_known_of(source.second) if source.second is not None else None,
            reader=_known_of(source.reader) if source.reader is not None else None,
            worder=_known_of(source.worder) if source.worder is not None else None,
            follower=_known_of(source.follower) if source.follower is not None else None,
            prompts=source.prompts.own,
            chars_per_token=source.gauge.chars_per_token, ahead=ahead, written=source.written(), **job,
        )  # fmt: skip
        return made, [body, *bodies]

    def _why(self, code: int | None) -> ComputingError:
        if code == -signal.SIGXCPU:
            return ComputingError(*TOO_MUCH, "time")
        return ComputingError(said_as("problem-conductor-lost"), said_as("problem-conductor-lost.hint"), "lost")

    def _first(self) -> None:
        # Whoever needs one makes it, and hears of what is wrong.
        with suppress(ComputingError):
            for _ in range(self._warm):
                self._give_back(self._new())

    def _new(self) -> Conductor:
        try:
            conductor = Conductor(self.nursery)
        except OSError as error:
            raise ComputingError(
                said_as("problem-no-conductor", why=str(error)), said_as("problem-no-conductor.hint"), "lost"
            ) from error
        with self._lock:
            closed = self._closed
            self._all.add(conductor)
        if closed:
            self._retire(conductor)
            raise ComputingError(said_as("problem-stopping"), said_as("problem-stopping.hint"), "lost")
        return conductor

    def _take(self) -> Conductor:
        while True:
            with self._lock:
                conductor = self._idle.pop() if self._idle else None
            if conductor is None:
                return self._new()
            if conductor.alive():
                return conductor
            self._retire(conductor)

    def _give_back(self, conductor: Conductor) -> None:
        conductor.idle_since = now = time.monotonic()
        surplus = []
        with self._lock:
            # Those that are lent last lie on top: what nobody has needed for a while lies below.
            while len(self._idle) > self._warm and now - self._idle[0].idle_since > _IDLE_S:
                surplus.append(self._idle.pop(0))
            (surplus if self._closed or conductor.tired else self._idle).append(conductor)
        for one in surplus:
            self._retire(one)

    def _retire(self, conductor: Conductor, lost: bool = False) -> int | None:
        with self._lock:
            known = conductor in self._all
            self._all.discard(conductor)
        return conductor.end(lost) if known else None


_FIRST: Final = (say.WantAccount(), say.WantCatalog(refreshed=False), say.WantExamples())
"""What every inquiry asks for before it computes."""


def _known_of(model: LanguageModel) -> say.Model:
    profile = model.profile
    return say.Model(name=profile.name, prompt_price=profile.prompt_price, completion_price=profile.completion_price)
