"""Our side of a job: what a conductor asks for is looked up or run here, and what it tells is recorded."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass
from functools import partial
from itertools import count
from multiprocessing.connection import Connection
from typing import Any, Final, Protocol

from harquel.core.briefing import Describer
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.events import Event, Watcher
from harquel.core.domain.examples import Example
from harquel.core.errors import CoreError, SandboxError
from harquel.core.inquiry.source import Deliver, Source
from harquel.core.language.say import packed
from harquel.core.llm.model import Completion, Message, ModelProfile
from harquel.core.scanning import tables_to_json
from harquel.core.together import together

from . import messages as say
from .process import SHELF

_NEWEST: Final = 16
"""How many things with versions are kept ready to be sent."""


class Parcels:
    """Things with versions, written down once each. For use by many threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._ready: deque[tuple[object, int, bytes]] = deque(maxlen=_NEWEST)
        self._examples: dict[str, tuple[Example, ...]] = {}
        self._tokens = count(1)

    def described(self, describer: Describer) -> tuple[int, bytes]:
        """Policy and notes."""

        def written() -> bytes:
            found = {n: getattr(describer, n).model_dump(mode="json") for n in ("policy", "notes")}
            return say.to_bytes(found)

        return self._of(describer, written)

    def catalog(self, catalog: Catalog) -> tuple[int, bytes]:
        """A catalog: a line of its own properties, then its tables."""

        def written() -> bytes:
            head = {
                "engine": catalog.engine, "fingerprint": catalog.fingerprint, "number": catalog.number,
                "default_schema": catalog.default_schema, "scanned_at": catalog.scanned_at.isoformat(),
            }  # fmt: skip
            return say.to_bytes(head) + b"\n" + tables_to_json(catalog.tables)

        return self._of(catalog, written)

    def examples(self, source: str, examples: tuple[Example, ...]) -> tuple[int, bytes]:
        """The example bank; the same for as long as nothing in it is another."""
        with self._lock:
            known = self._examples.get(source)
            if known != examples or known is None:
                known = self._examples[source] = examples
        return self._of(known, lambda: say.to_bytes([[e.question, e.sql, e.tables] for e in examples]))

    def _of(self, thing: object, written: Callable[[], bytes]) -> tuple[int, bytes]:
        with self._lock:
            for known, token, body in self._ready:
                if known is thing:
                    return token, body
            body = written()
            token = next(self._tokens)
            self._ready.appendleft((thing, token, body))
            return token, body


class Shelf:
    """What a conductor holds, as it counts itself."""

    def __init__(self) -> None:
        self._held: dict[int, None] = {}

    def kept(self, parcel: tuple[int, bytes]) -> tuple[say.Kept, bytes | None]:
        """What to say, and the body to send after it."""
        token, body = parcel
        if token in self._held:
            return say.Kept(token=token), None
        self._held[token] = None
        while len(self._held) > SHELF:
            del self._held[next(iter(self._held))]
        return say.Kept(token=token, sent=True), body


@dataclass
class SoFar:
    """What is left of a job when its conductor is lost."""

    inquiry: dict[str, Any] | None = None
    """As it was last told."""
    steps: int = 0
    """How many things were asked for and told."""
    waited_ms: float = 0.0
    """How long it waited before it began."""


class Recall(Protocol):
    """What is known of replies that were given before."""

    def known(self, duty: str, server: str, messages: list[Message]) -> Completion | None:
        """One that is as good as new."""

    def heard(self, duty: str, server: str, messages: list[Message], completion: Completion) -> None:
        """Hears what a model said."""


Paying = Callable[[str, ModelProfile, list[Message]], AbstractContextManager[Callable[[Completion], None]]]
"""Put around a call of a model for a duty; told of what came of it. Raises ModelRefused where it may not be made."""


@contextmanager
def unpaid(duty: str, profile: ModelProfile, messages: list[Message]) -> Iterator[Callable[[Completion], None]]:
    """Where nobody counts."""
    yield lambda _: None


class Desk:
    """Serves one job. Errors of the family go back to whoever asked, others come out."""

    def __init__(
        self, line: Connection, shelf: Shelf, parcels: Parcels, source: Source, watcher: Watcher, so_far: SoFar,
        deliver: Deliver | None = None, paying: Paying = unpaid, recall: Recall | None = None,
    ) -> None:  # fmt: skip
        """`paying` is put around each call of a model, and may say that there is no money for it; `recall` knows what
        need not be asked for again.
        """
        self._deliver, self._paying, self._recall = deliver, paying, recall
        self._line, self._shelf, self._parcels = line, shelf, parcels
        self._source, self._watcher, self._so_far = source, watcher, so_far

    def answer(self, wanted: say.Want) -> tuple[say.Reply, bytes | None]:
        """What to send: what was wanted, or why there is none."""
        self._so_far.steps += 1
        return self._told(wanted)

    def ahead(self, wanted: Iterable[say.Asked]) -> tuple[tuple[say.Ahead, ...], list[bytes | None]]:
        """What a job will ask for first, answered before it is sent; and the bodies of that."""
        replies = [(each, *self._told(each)) for each in wanted]
        return tuple(say.Ahead(wanted=each, reply=reply) for each, reply, _ in replies), [b for _, _, b in replies]

    def _told(self, wanted: say.Want) -> tuple[say.Reply, bytes | None]:
        started = time.perf_counter()
        try:
            reply, body = self._answer(wanted)
        except CoreError as error:
            reply, body = (
                say.Reply(
                    error=type(error).__name__,
                    message=packed(error.said),
                    hint=packed(error.hint),
                    fault=getattr(error, "fault", ""),
                ),
                None,
            )
        return reply.model_copy(update={"took_ms": (time.perf_counter() - started) * 1000}), body

    def record(self, message: say.Told) -> None:
        """Records a step. Raises OSError when the conductor is gone."""
        self._so_far.steps += 1
        self._so_far.inquiry = message.so_far or self._so_far.inquiry
        try:
            self._watcher.durable(Event(message.what, message.texts))
        except CoreError as error:
            say.send(self._line, say.Unwritten(message=str(error), hint=error.hint))

    def _answer(self, wanted: say.Want) -> tuple[say.Reply, bytes | None]:
        source, stopped = self._source, self._watcher.cancelled
        match wanted:
            case say.WantCatalog():
                found = source.refreshed(stopped) if wanted.refreshed else source.catalog(stopped)
                return self._kept(self._parcels.catalog(found))
            case say.WantExamples():
                return self._kept(self._parcels.examples(source.name, source.examples()))
            case say.WantGrant():
                return say.Reply(value=source.grant(wanted.table)), None
            case say.WantAccount():
                return say.Reply(value=source.account_fault()), None
            case say.WantCompletion():
                return say.Reply(value=self._completion(wanted)), None
            case say.WantCompletions():
                return say.Reply(value=_ended(partial(self._completion, call) for call in wanted.calls)), None
            case say.WantStatement():
                return say.Reply(value=self._statement(wanted)), None
            case say.WantStatements():
                return say.Reply(value=_ended(partial(self._statement, each) for each in wanted.wanted)), None
            case say.WantDelivery():
                return say.Reply(value=self._delivered(wanted)), None

    def _delivered(self, wanted: say.WantDelivery) -> dict[str, Any]:
        # Where to, and how much, is decided on this side.
        if self._deliver is None:
            raise SandboxError("there is no place for whole results", "denied")
        done = self._deliver(wanted.statement, self._watcher.cancelled, wanted.within_s)
        found: dict[str, Any] = say.DELIVERED.dump_python(done, mode="json")
        return found

    def _kept(self, parcel: tuple[int, bytes]) -> tuple[say.Reply, bytes | None]:
        kept, body = self._shelf.kept(parcel)
        return say.Reply(kept=kept), body

    def _statement(self, wanted: say.WantStatement) -> dict[str, Any]:
        return self._source.sandbox.ask(wanted.op, wanted.statement, self._watcher.cancelled, wanted.within_s)

    def _completion(self, wanted: say.WantCompletion) -> dict[str, Any]:
        source = self._source
        of_duty = {
            "second opinion": source.second, "read": source.reader, "word": source.worder, "follow": source.follower,
        }  # fmt: skip
        model = of_duty.get(wanted.duty) or source.model
        messages = [Message(role=m["role"], content=m["content"]) for m in wanted.messages]  # type: ignore[typeddict-item]
        server = f"{model.profile.base_url} {model.profile.name}"
        known = self._recall.known(wanted.duty, server, messages) if self._recall is not None else None
        if known is not None:
            if wanted.aloud:
                self._watcher.passing(known.text)
            return _completed(known, model.profile)
        with self._paying(wanted.duty, model.profile, messages) as paid:
            done = model.complete(
                messages, on_piece=self._watcher.passing if wanted.aloud else None, stopped=self._watcher.cancelled,
                within_s=wanted.within_s,
            )  # fmt: skip
            paid(done)
        if self._recall is not None:
            self._recall.heard(wanted.duty, server, messages, done)
        if model is source.model:
            source.gauge.learn(sum(len(m["content"]) for m in wanted.messages), done.prompt_tokens)
        return _completed(done, model.profile)


def _completed(done: Completion, profile: ModelProfile) -> dict[str, Any]:
    by = done.by or profile
    known = say.Model(name=by.name, prompt_price=by.prompt_price, completion_price=by.completion_price)
    return say.Completed(
        text=done.text, prompt_tokens=done.prompt_tokens, completion_tokens=done.completion_tokens,
        reasoning_tokens=done.reasoning_tokens, cached_tokens=done.cached_tokens, estimated=done.estimated,
        cut=done.cut, first_ms=done.first_ms, reused=done.reused, by=known,
    ).model_dump(mode="json")  # fmt: skip


def _ended(calls: Iterable[Callable[[], Any]]) -> list[dict[str, Any]]:
    """What each of several calls at the same time came to."""
    return [
        {
            "error": type(one).__name__,
            "message": packed(one.said),
            "hint": packed(one.hint),
            "fault": getattr(one, "fault", ""),
        }
        if isinstance(one, CoreError)
        else {"done": one}
        for one in together(list(calls))
    ]
