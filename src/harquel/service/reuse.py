"""Replies that are taken again: the same question on the same prompt asks no model, if that is allowed for.

What must hold: a reply is taken only where the model would be told the same, but for the time of day and who asks, and
where neither stands in it. So a catalog, a note, an example, a policy or a template that changes ends it by itself.
Only what came of an answer without doubts is kept, and whatever is taken is ruled on, controlled and run like a new
one: no row is kept here.
"""

from __future__ import annotations

import hashlib
import json
import re
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Final

from harquel.core.domain.inquiry import Inquiry
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import Completion, Message
from harquel.core.prompts.compose import moment
from harquel.service.metrics import REPLIES

MOST: Final = 2_000
"""Replies that are kept."""
_LONGEST: Final = 20_000
"""Characters of one that is kept."""
_DUTIES: Final = frozenset({"draft", "read"})
_CLOCK: Final = re.compile(r"(?<!\d)(?:[01]?\d|2[0-3]):[0-5]\d")
_EPOCH: Final = re.compile(r"\d{9,}")
_NAME: Final = 3
"""Letters that a part of a name has at least."""


def _timed(said: str) -> bool:
    """Whether a time of day stands in a reply: it may come from the instant that the question was about."""
    return any(found[0] != "00:00" for found in _CLOCK.finditer(said)) or _EPOCH.search(said) is not None


@dataclass(frozen=True)
class _Kept:
    completion: Completion
    inquiry: str
    until: float
    instant: str
    """The only instant of the question that it is for; empty: any of its day."""
    person: str
    """The only person that it is for; empty: anybody."""


@dataclass
class Recall:
    """Of one inquiry: what is known already, and what is learnt for later."""

    inquiry: str
    person: str
    instant: str
    """The instant that it is about, as models are told it."""
    find: Callable[[str], _Kept | None]
    learnt: dict[str, Completion] = field(default_factory=dict)

    def known(self, duty: str, server: str, messages: list[Message]) -> Completion | None:
        """The reply of an earlier inquiry, where there is one that is as good as new."""
        kept = self.find(self._key(duty, server, messages)) if duty in _DUTIES else None
        fits = kept is not None and kept.instant in ("", self.instant) and kept.person in ("", self.person)
        if duty in _DUTIES:
            REPLIES.labels(duty, "kept" if fits else "model").inc()
        if kept is None or not fits:
            return None
        none = {"prompt_tokens": 0, "completion_tokens": 0, "reasoning_tokens": 0, "cached_tokens": 0, "first_ms": 0.0}
        return replace(kept.completion, **none, reused=kept.inquiry)  # type: ignore[arg-type]

    def heard(self, duty: str, server: str, messages: list[Message], completion: Completion) -> None:
        """Learns what a model said to a first prompt."""
        if duty in _DUTIES and len(messages) == 2 and len(completion.text) <= _LONGEST and not completion.cut:
            self.learnt[self._key(duty, server, messages)] = completion

    def kept(self, completion: Completion, until: float) -> _Kept:
        """How it is kept: for whom and for when it holds."""
        said = completion.text.casefold()
        named = any(part in said for part in self.person.casefold().split() if len(part) >= _NAME)
        return _Kept(
            completion, self.inquiry, until, self.instant if _timed(said) else "", self.person if named else ""
        )  # fmt: skip

    def _key(self, duty: str, server: str, messages: list[Message]) -> str:
        day = self.instant.partition(" ")[0]
        told = [m["content"].replace(self.instant, day).replace(f"\n{self.person}\n", "\n\n") for m in messages]
        return hashlib.sha256(json.dumps([duty, server, told]).encode()).hexdigest()


class Reuse:
    """For use by many threads. `kept_s` says for how many seconds a reply may be taken again; 0: never."""

    def __init__(self, kept_s: Callable[[], float]) -> None:
        self._kept_s = kept_s
        self._lock = threading.Lock()
        self._known: OrderedDict[str, _Kept] = OrderedDict()
        self._under_way: dict[str, Recall] = {}

    def of(self, inquiry: Inquiry, source: Source) -> Recall | None:
        """What an inquiry may take and learn; None where nothing is kept, or another draft is the point of it."""
        if not self._kept_s() or inquiry.redraft is not None or inquiry.as_of is None:
            return None
        here = source.notes.calendar.here(inquiry.as_of)
        made = Recall(inquiry.id, inquiry.asked_by, moment(here), self._find)
        with self._lock:
            self._under_way[inquiry.id] = made
        return made

    def settle(self, inquiry: Inquiry) -> None:
        """Keeps what was learnt where the first draft was answered from and nothing about it is doubtful."""
        with self._lock:
            made = self._under_way.pop(inquiry.id, None)
            sure = inquiry.outcome == "answered" and inquiry.trust == "clear" and len(inquiry.attempts) == 1
            if made is None or not sure:
                return
            until = time.monotonic() + self._kept_s()
            for key, completion in made.learnt.items():
                self._known[key] = made.kept(completion, until)
                self._known.move_to_end(key)
            while len(self._known) > MOST:
                self._known.popitem(last=False)

    def forget(self) -> None:
        """From now on nothing is known: another model, or other settings of it, may answer to the same name."""
        with self._lock:
            self._known.clear()

    def _find(self, key: str) -> _Kept | None:
        with self._lock:
            kept = self._known.get(key)
            if kept is not None and kept.until < time.monotonic():
                del self._known[key]
                return None
            return kept
