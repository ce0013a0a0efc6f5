"""What runs in a conductor: takes jobs, one after the other, and asks over the pipe for all that it does not have."""

from __future__ import annotations

import datetime as dt
import gc
import json
import os
import resource
import select
import time
import traceback
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from importlib import import_module
from multiprocessing.connection import Connection
from typing import Any, Final, TypeVar

from pydantic import BaseModel

from harquel.core import errors
from harquel.core.briefing import Describer, TokenGauge
from harquel.core.curation import check_example
from harquel.core.domain import record
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.delivery import Delivered
from harquel.core.domain.events import Event
from harquel.core.domain.examples import Example
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import RuledStatement
from harquel.core.errors import Cancelled, CoreError, ModelError, SandboxError
from harquel.core.inquiry.conduct import conduct, go_on
from harquel.core.inquiry.review_only import review_sql
from harquel.core.inquiry.source import Source
from harquel.core.language.say import unpacked
from harquel.core.llm.at_once import Call
from harquel.core.llm.model import Completion, Message, ModelProfile, OnPiece
from harquel.core.prompts import SHIPPED, Prompts
from harquel.core.prompts.templates import Name
from harquel.core.sandbox import StatementRunner
from harquel.core.scanning import tables_from_json

from . import messages as say
from .messages import REVIEWED
from .telling import Telling

T = TypeVar("T")
SHELF: Final = 32
"""How many things with versions a conductor holds; the service counts along, the oldest goes first."""


def run(line: Connection, computing_s: float, memory_bytes: int, prepare: str = "") -> None:
    """The whole life of a conductor; ends when the service closes its end of the pipe.

    `prepare` is the place (module:function) of what is done first.
    """
    # What the nursery has loaded is shared by all: collecting it would only copy it.
    gc.freeze()
    os.environ.clear()
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    if prepare:
        module, _, name = prepare.partition(":")
        getattr(import_module(module), name)()
    conductor = _Conductor(line, Telling(line))
    while True:
        try:
            job = say.receive_down(line)
        except (EOFError, OSError):
            return
        if not isinstance(job, say.Job):
            continue  # a word to a job that has ended since
        _may_compute(computing_s)
        try:
            conductor.carry_out(job)
        except (EOFError, OSError):
            return  # the service is gone


def _may_compute(seconds: float) -> None:
    """From now on so many seconds of processor time; the system ends us beyond that, whatever we are at."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    most = int(used.ru_utime + used.ru_stime + seconds + 1)
    resource.setrlimit(resource.RLIMIT_CPU, (most, resource.getrlimit(resource.RLIMIT_CPU)[1]))


@dataclass
class _Conductor:
    line: Connection
    telling: Telling
    shelf: OrderedDict[int, Any] = field(default_factory=OrderedDict)
    looked_up: OrderedDict[int, dict[tuple[object, ...], object]] = field(default_factory=OrderedDict)
    """By the source that it was looked up in."""

    def carry_out(self, job: say.Job) -> None:
        try:
            described = self.kept(job.described, _describer)
            work = _Work(self, job, described, [self.laid_out(each) for each in job.ahead])
            body = say.to_bytes(work.go())
        except CoreError as error:
            fault = getattr(error, "fault", "")
            failed = say.Failed(error=type(error).__name__, message=str(error), hint=error.hint, fault=fault)
            self.end(failed)
        except (EOFError, OSError):
            raise
        except Exception as error:  # a mistake of ours: it is told, and logged where the log is
            where = "".join(traceback.format_exception(error))[-4000:]
            self.end(say.Failed(error="", message=type(error).__name__, where=where))
        else:
            self.end(say.Done(), body)

    def end(self, how: say.Done | say.Failed, *bodies: bytes) -> None:
        """The last word of a job, after all that it has told."""
        self.telling.send_all()
        say.send(self.line, how, *bodies)

    def kept(self, kept: say.Kept, make: Callable[[bytes], T]) -> T:
        """Something that has versions: taken from the shelf, or put there from the body that follows."""
        if kept.sent:
            body = say.receive_body(self.line)
            self.shelf[kept.token] = None
            while len(self.shelf) > SHELF:
                self.shelf.popitem(last=False)
            self.shelf[kept.token] = make(body)
        found: T = self.shelf[kept.token]
        return found

    def laid_out(self, ahead: say.Ahead) -> say.Ahead:
        """The same with what it brings on the shelf: from there it is taken when it is wanted."""
        kept = ahead.reply.kept
        if kept is None:
            return ahead
        self.kept(kept, _catalog if isinstance(ahead.wanted, say.WantCatalog) else _examples)
        reply = ahead.reply.model_copy(update={"kept": say.Kept(token=kept.token)})
        return ahead.model_copy(update={"reply": reply})


def _describer(body: bytes) -> Describer:
    found = json.loads(body)
    return Describer(Policy.model_validate(found["policy"]), Notes.model_validate(found["notes"]))


def _catalog(body: bytes) -> Catalog:
    head, tables = body.split(b"\n", 1)
    found = json.loads(head)
    scanned_at = dt.datetime.fromisoformat(found.pop("scanned_at"))
    return Catalog(tables=tables_from_json(tables), scanned_at=scanned_at, **found)


def _examples(body: bytes) -> tuple[Example, ...]:
    return tuple(Example(question, sql, tuple(tables)) for question, sql, tables in json.loads(body))


class _Work:
    """One job, and the source as it is seen from here."""

    def __init__(self, conductor: _Conductor, job: say.Job, described: Describer, ahead: list[say.Ahead]) -> None:
        self._ahead = ahead
        self._conductor, self._line, self.job, self._described = conductor, conductor.line, job, described
        self._stopped = False
        self._ear = select.poll()
        self._ear.register(self._line, select.POLLIN)
        self._unwritten: say.Unwritten | None = None
        self.inquiry: Inquiry | None = None
        self.over = {"model": 0.0, "database": 0.0}
        """Milliseconds on the way there and back, which are ours and not the model's or the database's."""

    def go(self) -> dict[str, Any]:
        """What came of it, as JSON values."""
        job, source = self.job, self._source()
        if job.kind == "check":
            checked = check_example(job.sql, source)
            return {"state": checked.state, "said": checked.said, "tables": checked.tables}
        now = dt.datetime.fromisoformat(job.now)
        if job.kind == "review":
            found: dict[str, Any] = REVIEWED.dump_python(review_sql(job.sql, source, job.person, now), mode="json")
            return found
        assert job.inquiry is not None
        inquiry = self.inquiry = record.read(job.inquiry)
        before = sum(each.reply.took_ms for each in job.ahead)
        if job.kind == "go_on":
            inquiry = go_on(inquiry, source, self, now, job.person, job.released_by)
        else:
            inquiry = conduct(inquiry, source, self, now, job.person, before / 1000)
        times = inquiry.timings
        looked = sum(each.reply.took_ms for each in job.ahead if not isinstance(each.wanted, say.WantExamples))
        times.total_ms = round(times.total_ms + before, 2)
        times.database_ms = round(times.database_ms + looked, 2)
        times.own_ms = round(times.own_ms + before - looked, 2)
        times.model_ms = round(times.model_ms - self.over["model"], 2)
        times.database_ms = round(times.database_ms - self.over["database"], 2)
        times.own_ms = round(times.own_ms + sum(self.over.values()), 2)
        return record.written(inquiry)

    def _source(self) -> Source:
        job = self.job
        known = self._conductor.looked_up.setdefault(job.lives, {})
        while len(self._conductor.looked_up) > SHELF:
            self._conductor.looked_up.popitem(last=False)
        return Source(
            job.source, job.engine, lambda _: self._catalog_of(False), lambda _: self._catalog_of(True),
            self._described, self._examples_of, lambda table: str(self.want(say.WantGrant(table=table)).value),
            _Runner(job.engine, self), _Model(self, job.model, "draft"), TokenGauge(job.chars_per_token),
            looked_up=known, second=_Model(self, job.second, "second opinion") if job.second is not None else None,
            reader=_Model(self, job.reader, "read") if job.reader is not None else None,
            worder=_Model(self, job.worder, "word") if job.worder is not None else None,
            follower=_Model(self, job.follower, "follow") if job.follower is not None else None,
            prompts=_prompts(tuple(sorted(job.prompts.items()))),
            deliver=self._deliver, at_once=self._at_once,
            account_fault=lambda: str(self.want(say.WantAccount(), "database").value),
            written=lambda: job.written,
        )  # fmt: skip

    def _deliver(self, statement: RuledStatement, stopped: Callable[[], bool], within_s: float) -> Delivered:
        if stopped():
            raise Cancelled("stopped before the database was asked")
        wanted = say.WantDelivery(statement=statement, within_s=within_s)
        return say.DELIVERED.validate_python(self.want(wanted, "database").value)

    def _at_once(
        self, calls: Sequence[Call], stopped: Callable[[], bool], within_s: float
    ) -> list[Completion | CoreError]:  # fmt: skip
        wanted = [
            call.model.wish(call.messages, call.on_piece is not None, within_s)
            for call in calls if isinstance(call.model, _Model)
        ]  # fmt: skip
        found = self.want(say.WantCompletions(calls=wanted), "model").value
        return [one if isinstance(one, CoreError) else _completion(one) for one in _ended(found)]

    def _catalog_of(self, refreshed: bool) -> Catalog:
        reply = self.want(say.WantCatalog(refreshed=refreshed), "database")
        assert reply.kept is not None
        return self._conductor.kept(reply.kept, _catalog)

    def _examples_of(self) -> tuple[Example, ...]:
        reply = self.want(say.WantExamples())
        assert reply.kept is not None
        return self._conductor.kept(reply.kept, _examples)

    # -- as a watcher ----------------------------------------------------------------------------

    def durable(self, event: Event) -> None:
        """See Watcher. Raises CoreError once an earlier one could not be written."""
        if self._unwritten is not None:
            raise CoreError(self._unwritten.message, self._unwritten.hint)
        so_far = None
        if event.kind == "replied" and self.inquiry is not None:
            # From here on the reply is read, by which we may be lost.
            so_far = record.written(self.inquiry)
        told = say.Told(what=event.what, texts=dict(event.texts), so_far=so_far)
        self._conductor.telling.tell(told, at_once=so_far is not None)

    def passing(self, piece: str | None) -> None:
        """See Watcher. Pieces pass where the model is called, not here."""

    def cancelled(self) -> bool:
        """See Watcher."""
        while self._ear.poll(0):
            self._hear(say.receive_down(self._line))
        return self._stopped

    # -- over the pipe ---------------------------------------------------------------------------

    def want(self, message: BaseModel, phase: str = "") -> say.Reply:
        """Asks for something and waits for it, unless the reply came with the job. Raises what was raised there."""
        known = next((each for each in self._ahead if each.wanted == message), None)
        if known is not None:
            self._ahead.remove(known)
            reply = known.reply
        else:
            reply = self._asked(message, phase)
        if reply.error:
            raise rebuilt(reply.error, reply.message, reply.hint, reply.fault)
        return reply

    def _asked(self, message: BaseModel, phase: str) -> say.Reply:
        started = time.perf_counter()
        self._conductor.telling.send_all()
        say.send(self._line, message)
        while not isinstance(reply := say.receive_down(self._line), say.Reply):
            self._hear(reply)
        if phase:
            self.over[phase] += (time.perf_counter() - started) * 1000 - reply.took_ms
        return reply

    def _hear(self, message: BaseModel) -> None:
        if isinstance(message, say.Stop):
            self._stopped = True
        elif isinstance(message, say.Unwritten):
            self._unwritten = message


def rebuilt(name: str, words: Any, advice: Any, fault: str) -> CoreError:
    """An error of the family, as it was raised at the other end of the pipe."""
    kind, message, hint = getattr(errors, name, CoreError), unpacked(words), unpacked(advice)
    if not issubclass(kind, CoreError):
        return CoreError(message, hint)
    if issubclass(kind, SandboxError):
        return SandboxError(message, fault, hint)  # type: ignore[arg-type]
    if issubclass(kind, ModelError):
        return kind(message, hint, fault)  # type: ignore[call-arg]
    found: CoreError = kind(message, hint)
    return found


def _ended(found: list[dict[str, Any]]) -> list[Any]:
    """What several things that were wanted at the same time came to: each what was done, or a CoreError."""
    return [
        one["done"] if "done" in one else rebuilt(one["error"], one["message"], one["hint"], one["fault"])
        for one in found
    ]


def _profile(model: say.Model) -> ModelProfile:
    return ModelProfile("", model.name, prompt_price=model.prompt_price, completion_price=model.completion_price)


def _completion(value: Any) -> Completion:
    done = say.Completed.model_validate(value)
    counts = done.model_dump(exclude={"by"})
    return Completion(**counts, by=_profile(done.by))


class _Runner(StatementRunner):
    def __init__(self, engine_name: str, work: _Work) -> None:
        super().__init__(engine_name)
        self._work = work

    def ask(self, op: Any, statement: RuledStatement, stopped: Callable[[], bool], within_s: float) -> dict[str, Any]:
        if stopped():
            raise Cancelled("stopped before the database was asked")
        wanted = say.WantStatement(op=op, statement=statement, within_s=within_s)
        reply: dict[str, Any] = self._work.want(wanted, "database").value
        return reply

    def ask_each(
        self, op: Any, statements: Sequence[RuledStatement], stopped: Callable[[], bool], within_s: float
    ) -> list[dict[str, Any] | CoreError]:
        if stopped():
            raise Cancelled("stopped before the database was asked")
        wanted = [say.WantStatement(op=op, statement=each, within_s=within_s) for each in statements]
        return _ended(self._work.want(say.WantStatements(wanted=wanted), "database").value)


class _Model:
    def __init__(self, work: _Work, model: say.Model, duty: say.Duty) -> None:
        self._work, self._duty = work, duty
        self._profile = _profile(model)

    @property
    def profile(self) -> ModelProfile:
        return self._profile

    def wish(self, messages: list[Message], aloud: bool, within_s: float) -> say.WantCompletion:
        plain = [{"role": m["role"], "content": m["content"]} for m in messages]
        return say.WantCompletion(duty=self._duty, messages=plain, aloud=aloud, within_s=within_s)

    def complete(
        self, messages: list[Message], *, on_piece: OnPiece | None, stopped: Callable[[], bool],
        within_s: float,
    ) -> Completion:  # fmt: skip
        wanted = self.wish(messages, on_piece is not None, within_s)
        return _completion(self._work.want(wanted, "model").value)


@lru_cache(maxsize=64)
def _prompts(own: tuple[tuple[Name, str], ...]) -> Prompts:
    """Templates are made once, and not for each inquiry."""
    return Prompts(dict(own)) if own else SHIPPED
