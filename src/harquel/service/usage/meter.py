"""How much of today's budgets is left, and what each call takes of it.

Property: no call is made that would take a sum of today beyond its budget, as far as can be known before it: what has
been paid, what calls under way have set aside, and what this one is expected to take, together. It is held here and
nowhere else, at the only place where models are called for an inquiry (conductors/desk.py), whatever way it came in.
"""

from __future__ import annotations

import datetime as dt
import threading
import time
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from decimal import Decimal
from typing import Final, Literal

from django.db.models import Sum

from harquel.core.clock import utc_now
from harquel.core.errors import ModelRefused
from harquel.core.language.say import said_as
from harquel.core.llm.model import Completion, Message, ModelProfile, cost_of, estimated_tokens
from harquel.service.config import BudgetsSection
from harquel.service.records.writer import Writer

from .models import ModelCall

NANO: Final = 1_000_000_000
_REPLY: Final = 1_000
"""Tokens that a reply is expected to have where its model is told no longest."""


@dataclass
class Amount:
    """Tokens, and cost in billionths."""

    tokens: int = 0
    nano: int = 0


@dataclass(frozen=True)
class Budget:
    """Of one sum of today: whose it is, what may be spent, what has been."""

    name: str
    unit: Literal["cost", "tokens"]
    limit: Decimal
    spent: Decimal


class Meter:
    """For all calls of this process. `clock` gives the instant."""

    def __init__(
        self, budgets: BudgetsSection, writer: Writer, clock: Callable[[], dt.datetime] = utc_now
    ) -> None:  # fmt: skip
        """Nobody else writes calls of models into the same records: what was paid of today is read once."""
        self.budgets, self._writer, self._clock = budgets, writer, clock
        self._lock = threading.Lock()
        self._day = clock().date()
        self._paid: defaultdict[tuple[str, str], Amount] = defaultdict(Amount)
        self._aside: defaultdict[tuple[str, str], Amount] = defaultdict(Amount)
        for row in ModelCall.objects.filter(day=self._day).values("person", "source").annotate(
            tokens=Sum("prompt_tokens") + Sum("completion_tokens"), nano=Sum("cost_nano")
        ):  # fmt: skip
            for place in (("", ""), ("person", row["person"]), ("source", row["source"])):
                _add(self._paid[place], Amount(row["tokens"], row["nano"]), 1)

    def account(self, person: str, source: str, inquiry: str) -> Account:
        """For the calls of one inquiry."""
        return Account(self, person, source, inquiry)

    def standing(self, person: str, sources: list[str], of_all: bool) -> list[Budget]:
        """The budgets that are set, for somebody and for some sources, and what of today has been spent."""
        with self._lock:
            self._turn()
            places = [*([("", "")] if of_all else []), ("person", person), *(("source", s) for s in sources)]
            return [b for kind, name in places for b in self._of(kind, name)]

    def enter(self, places: list[tuple[str, str]], wanted: Amount) -> None:
        """Sets something aside for a call. Raises ModelRefused where a budget has no room for it."""
        with self._lock:
            self._turn()
            for kind, name in places:
                for unit, limit in self._limits(kind):
                    had = self._paid[kind, name], self._aside[kind, name]
                    now = sum(_part(one, unit) for one in (*had, wanted))
                    if now > limit:
                        message = f"budget-{kind or 'all'}"
                        said = said_as(message, name=name, limit=_shown(limit, unit))
                        raise ModelRefused(said, said_as("budget-hint"), "budget")
            for place in places:
                _add(self._aside[place], wanted, 1)

    def leave(self, places: list[tuple[str, str]], wanted: Amount, taken: Amount | None) -> None:
        """What was set aside is free again, and what was taken is paid."""
        with self._lock:
            for place in places:
                _add(self._aside[place], wanted, -1)
                if taken is not None:
                    _add(self._paid[place], taken, 1)

    def put_down(self, call: ModelCall) -> None:
        """Onto record, before the end of its inquiry is."""
        call.at = self._clock()
        call.day = call.at.date()
        self._writer.submit(lambda: call.save(force_insert=True), alone=False)

    def _turn(self) -> None:
        """A new day begins with nothing."""
        today = self._clock().date()
        if self._day != today:
            self._day = today
            self._paid.clear()

    def _limits(self, kind: str) -> Iterator[tuple[Literal["cost", "tokens"], int]]:
        prefix = f"{kind}_day" if kind else "day"
        cost: Decimal | None = getattr(self.budgets, f"{prefix}_cost")
        tokens: int | None = getattr(self.budgets, f"{prefix}_tokens")
        if cost is not None:
            yield "cost", int(cost * NANO)
        if tokens is not None:
            yield "tokens", tokens

    def _of(self, kind: str, name: str) -> Iterator[Budget]:
        for unit, limit in self._limits(kind):
            spent = _part(self._paid[kind, name], unit)
            shown = [Decimal(v) / NANO if unit == "cost" else Decimal(v) for v in (limit, spent)]
            yield Budget(f"{kind} {name}".strip() or "all", unit, *shown)


class Account:
    """Of one inquiry."""

    def __init__(self, meter: Meter, person: str, source: str, inquiry: str) -> None:
        self._meter, self._person, self._source, self._inquiry = meter, person, source, inquiry
        self._places = [("", ""), ("person", person), ("source", source)]

    @contextmanager
    def call(self, duty: str, profile: ModelProfile, messages: list[Message]) -> Iterator[Callable[[Completion], None]]:
        """Around a call; what it gives is told of what came of it. Raises ModelRefused before it."""
        prompt = estimated_tokens(sum(len(m["content"]) for m in messages))
        reply = profile.longest or _REPLY
        wanted = Amount(prompt + reply, int(cost_of(prompt, reply, profile) * NANO))
        self._meter.enter(self._places, wanted)
        taken: list[Amount] = []
        began = time.monotonic()

        def paid(done: Completion) -> None:
            by = done.by or profile
            nano = int(cost_of(done.prompt_tokens, done.completion_tokens, by) * NANO)
            taken.append(Amount(done.prompt_tokens + done.completion_tokens, nano))
            self._meter.put_down(
                ModelCall(
                    person=self._person, source=self._source, inquiry=self._inquiry, duty=duty,
                    model=by.called or by.name, prompt_tokens=done.prompt_tokens,
                    completion_tokens=done.completion_tokens, reasoning_tokens=done.reasoning_tokens,
                    cached_tokens=done.cached_tokens, estimated=done.estimated, cost_nano=nano,
                    elapsed_ms=round((time.monotonic() - began) * 1000, 1),
                )
            )  # fmt: skip

        try:
            yield paid
        finally:
            self._meter.leave(self._places, wanted, taken[0] if taken else None)


def _part(one: Amount, unit: str) -> int:
    return one.nano if unit == "cost" else one.tokens


def _add(one: Amount, more: Amount, sign: int) -> None:
    one.tokens += sign * more.tokens
    one.nano += sign * more.nano


def _shown(limit: int, unit: str) -> str:
    return f"{Decimal(limit) / NANO:,.2f}" if unit == "cost" else f"{limit:,} tokens"
