"""What an inquiry knows on its way, what it asks of source and model, and how it tells of it."""

from __future__ import annotations

import datetime as dt
import json
import re
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from decimal import Decimal
from functools import cached_property
from typing import Any, Final, TypeVar

from sqlglot import exp

from harquel.contract import events
from harquel.core.answers.charts import Asked, without_wish
from harquel.core.briefing import CatalogIndex
from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.events import Event, Watcher
from harquel.core.domain.examples import Example
from harquel.core.domain.findings import Finding, Ruling
from harquel.core.domain.inquiry import Attempt, Inquiry
from harquel.core.domain.statements import DraftedStatement
from harquel.core.domain.terms import Terms
from harquel.core.errors import Cancelled, CoreError, ModelError, SandboxError
from harquel.core.guard import TextRuling, rule_by_terms, rule_on_plan
from harquel.core.inquiry import endings
from harquel.core.inquiry.phases import Phases
from harquel.core.inquiry.source import Source
from harquel.core.llm.at_once import Call
from harquel.core.llm.model import Completion, LanguageModel, Message, cost_of
from harquel.core.prompts.templates import Name
from harquel.core.reading import Instead, Reading
from harquel.core.review.probes import holds_text
from harquel.core.review.statement import Plain, Ref, Statement, statement_of
from harquel.core.sql.local_time import as_people_see_it
from harquel.core.sql.tree import strings

T = TypeVar("T")
MOST_LOOKUPS: Final = 6
_NOT_LOOKED: Final = object()
_TEMPLATES: Final[Mapping[str, Name]] = {
    "": "draft", "second opinion": "draft", "control": "read", "word": "word", "follow-up": "follow",
}  # fmt: skip
"""By which template a model is told what it is asked for."""
LOOK_S = 1.0
"""Seconds that a small query of ours may take."""
LOOKS_S = 6.0
"""Seconds that all of them may take for one inquiry; on a busy machine a doubt less is better than no answer."""


@dataclass(frozen=True)
class _Then:
    """What was said to a small query, and when, by the clock of this process."""

    at: float
    said: Any


@dataclass
class Course:
    """One inquiry under way. `index` is what this person may see of the source, as it is now."""

    inquiry: Inquiry
    source: Source
    watcher: Watcher
    now: dt.datetime
    clock: Phases
    terms: Terms
    whole: Catalog = field(init=False)
    """All that our account sees, exposed or not."""
    index: CatalogIndex = field(init=False)
    restricted: bool = field(init=False)
    """Whether this person may see less than the service's account does: then nothing of that is told on the way."""
    released_by: str = ""
    duty: str = ""
    """Told with everything that is not done for the answer itself."""
    by: str = ""
    """Which model gave the last reply."""
    reused: str = ""
    """For which inquiry that was given before; empty: for this one."""
    cut: bool = False
    """Whether that stopped because it might say no more."""
    read_as: Reading | None = None
    """How it is understood, where it is the reading of an earlier one that was changed."""
    claimed: tuple[str, ...] = ()
    """Figures that whoever asks takes for the answer."""
    beside: tuple[Instead, ...] = ()
    """How else what follows an answer can be meant."""
    lookups: int = 0
    looked_s: float = 0.0
    """Seconds that small queries of ours have taken."""
    looked_again: bool = False
    _examples: tuple[Example, ...] | None = None
    silenced: dict[str, Finding] = field(default_factory=dict)
    """What was found by rules that were silenced for this inquiry."""
    _statements: dict[int, Statement] = field(default_factory=dict)
    """By their trees, which they hold, so that no other takes their place."""

    @cached_property
    def asked(self) -> Asked:
        """The question, and apart from it what it wishes of the picture."""
        return without_wish(self.inquiry.standalone_question or self.inquiry.question, self._words)

    def _words(self) -> set[str]:
        """Those of which the names are made that this person may see."""
        tables = self.catalog.tables
        named = [name for table in tables for name in (table.name, *(column.name for column in table.columns))]
        return {word.casefold() for name in named for word in re.split(r"[\W_]+", name)}

    @property
    def catalog(self) -> Catalog:
        """What this person may see."""
        return self.index.catalog

    def open(self) -> None:
        """Looks at the source. Raises End when it may not be asked with this account, SourceError."""
        with self.clock.phase("database"):
            fault = self.source.account_fault()
            if fault:
                raise endings.account_can_write(fault)
            self.whole = self.source.catalog(self.watcher.cancelled)
        self.describe()

    def describe(self) -> None:
        """What is visible of the catalog as it is now."""
        with self.clock.phase("briefing"):
            self.index = self.source.describer.of(self.whole, self.terms.person)
            self.restricted = self.terms.restricts(self.catalog)

    def sight(self) -> str:
        """What exists for this person, as a digest; the same as long as nothing of that changes."""
        return self.terms.sight(self.catalog)

    def moved_on(self) -> bool:
        """Looks at the database again, once an inquiry: whether its structure is another than we thought."""
        if self.looked_again:
            return False
        self.looked_again = True
        with self.clock.phase("database"):
            newest = self.source.refreshed(self.watcher.cancelled)
        moved = newest.fingerprint != self.whole.fingerprint
        self.whole = newest
        if moved:
            # The model may know better than our catalog did.
            self.describe()
        return moved

    def usable_examples(self) -> tuple[Example, ...]:
        """Those that this person may see: none with a text in it from a table that is restricted."""
        if self._examples is None:
            self._examples = self.source.examples()
        found = self._examples
        if not self.restricted:
            return found
        bare = {t.name for t in self.catalog.tables if not self.terms.rules(t.name)}
        return tuple(e for e in found if set(e.tables) <= bare or not strings(e.sql, self.source.engine))

    # -- asking ----------------------------------------------------------------------------------

    def ask(self, model: LanguageModel, messages: list[Message], number: int) -> str:
        """One call of a model; the prompt goes on record before it, the reply after. Raises ModelError, End."""
        left = self._may_ask()
        self._prompted(model, messages, number)
        with self.clock.phase("model"):
            # What is not written for the answer itself is nobody's to watch.
            passing = None if self.duty else self.watcher.passing
            completion = model.complete(messages, on_piece=passing, stopped=self.watcher.cancelled, within_s=left)
        return self._replied(model, messages, number, completion)

    def ask_beside(
        self, messages: list[Message], other: LanguageModel, for_other: list[Message], duty: str, number: int
    ) -> tuple[str, str | ModelError]:
        """The drafting model and, at the same time, another one for a duty; nobody waits for both in turn.

        The other's reply, or why there is none. Raises ModelError where the drafting model failed, and End.
        """
        left, model = self._may_ask(), self.source.model
        self._prompted(model, messages, number)
        with self.doing(duty):
            self._prompted(other, for_other, number)
        calls = (Call(model, messages, self.watcher.passing), Call(other, for_other))
        with self.clock.phase("model"):
            drafted, found = self.source.at_once(calls, self.watcher.cancelled, left)
        for one in (drafted, found):
            if isinstance(one, CoreError) and not isinstance(one, ModelError):
                raise one
        reply: str | ModelError = ModelError("no reply")
        if isinstance(found, Completion):
            with self.doing(duty):
                reply = self._replied(other, for_other, number, found)
        elif isinstance(found, ModelError):
            reply = found
        if not isinstance(drafted, Completion):
            raise drafted
        return self._replied(model, messages, number, drafted), reply

    @contextmanager
    def doing(self, duty: str) -> Iterator[None]:
        """What is told meanwhile is told as that."""
        before, self.duty = self.duty, duty
        try:
            yield
        finally:
            self.duty = before

    def _may_ask(self) -> float:
        """Seconds that are left. Raises End."""
        left, usage = self.clock.left(), self.inquiry.usage
        if left <= 0:
            raise endings.out_of_time()
        if usage.prompt_tokens + usage.completion_tokens >= self.source.policy.limits.inquiry_tokens:
            raise endings.out_of_tokens()
        return left

    def _prompted(self, model: LanguageModel, messages: list[Message], number: int) -> None:
        prompt = json.dumps(messages, ensure_ascii=False)
        name = _TEMPLATES[self.duty]
        template = f"{name} {self.source.prompts.version(name)}"
        self.tell(events.Prompted(number=number, model=model.profile.name, template=template), {"prompt": prompt})

    def _replied(self, model: LanguageModel, messages: list[Message], number: int, completion: Completion) -> str:
        usage, profile = self.inquiry.usage, completion.by or model.profile
        self.by, self.cut, self.reused = profile.name, completion.cut, completion.reused
        if model is self.source.model and not completion.reused:
            self.source.gauge.learn(sum(len(m["content"]) for m in messages), completion.prompt_tokens)
        usage.prompt_tokens += completion.prompt_tokens
        usage.completion_tokens += completion.completion_tokens
        usage.calls += not completion.reused
        if profile.prompt_price or profile.completion_price:
            cost = cost_of(completion.prompt_tokens, completion.completion_tokens, profile)
            usage.cost = f"{Decimal(usage.cost or 0) + cost:f}"
        usage.estimated += completion.estimated
        replied = events.Replied(
            number=number, prompt_tokens=completion.prompt_tokens, completion_tokens=completion.completion_tokens,
            model=profile.name, reused=completion.reused,
        )  # fmt: skip
        self.tell(replied, {"reply": completion.text})
        return completion.text

    def withholds(self, table: Table, column: Column) -> bool:
        """Whether a column may not be shown to this person, not even masked."""
        return self.terms.treatment(table.name, column)[0] in ("refuse", "count")

    def rule(self, sql: DraftedStatement) -> TextRuling:
        """The ruling on a text."""
        with self.clock.phase("guard"):
            return rule_by_terms(sql, self.source.engine, self.catalog, self.terms, self.whole)

    def released(self, ruling: Ruling) -> Ruling:
        """The ruling, once somebody has released what it holds."""
        if ruling.verdict != "hold" or not self.released_by:
            return ruling
        return replace(ruling, verdict="run", reason=f"Released by {self.released_by}.")

    def look(self, sql: str, planned: bool = False) -> list[list[Any]] | None:
        """A small query of ours beside the draft: ruled on and run like any other, within a second.

        `planned`: on its plan, too; for one that can be larger than what it was made from.
        """
        left = min(LOOK_S, LOOKS_S - self.looked_s, self.clock.left())
        if left <= 0:
            return None
        ruled = self.rule(DraftedStatement(sql))
        if ruled.statement is None or ruled.ruling.verdict != "run":
            return None
        started = time.monotonic()
        try:
            with self.clock.phase("database"):
                if planned:
                    plan = self.source.sandbox.plan(ruled.statement, self.watcher.cancelled, left)
                    if rule_on_plan(plan, self.whole, self.source.policy)[0].verdict != "run":
                        return None
                return self.source.sandbox.run(ruled.statement, self.watcher.cancelled, left).rows
        except SandboxError:
            return None
        finally:
            self.looked_s += time.monotonic() - started

    def now_and_then(self, what: tuple[str, ...], seconds: float, ask: Callable[[], T | None]) -> T | None:
        """What a small query says, for so many seconds the same for everybody who may see the same."""
        whose = self.terms.person.name if self.restricted else ""
        key = (*what, self.catalog.fingerprint, self.terms.signature(), whose)
        known = self.source.looked_up.get(key)
        if isinstance(known, _Then) and time.monotonic() - known.at <= seconds:
            return known.said  # type: ignore[no-any-return]
        found = ask()
        self.source.looked_up[key] = _Then(time.monotonic(), found)
        return found

    def holds(self, table: Table, column: Column, value: str) -> bool | None:
        """Whether a column holds a text; asked of the database once for each version of the catalog."""
        engine = self.source.engine
        return self._looked("holds", table, column, value, lambda r: holds_text(r, value, engine, self.look))

    def tells_apart(self, table: Table, column: Column) -> bool:
        """Whether a column says which row it is: a key of its own, or a name."""
        return column.primary_key or column.unique or self._names_rows(table, column)

    def _names_rows(self, table: Table, column: Column) -> bool:
        label = self.source.notes.of(table.name).label
        if column.kind != "text" or column.primary_key or self.source.policy.is_personal(table.name, column):
            return False
        if column.name == label or column.unique:
            return True
        return bool(column.distinct and table.row_count and column.distinct >= 0.9 * table.row_count)

    def _looked(
        self, what: str, table: Table, column: Column, value: Plain, ask: Callable[[Ref], T | None]
    ) -> T | None:
        # What is there for somebody with row rules is nobody else's business.
        whose = self.terms.person.name if self.restricted else ""
        key = (what, self.catalog.fingerprint, self.terms.signature(), whose, table.name, column.name, value)
        known = self.source.looked_up
        found = known.get(key, _NOT_LOOKED)
        if found is _NOT_LOOKED:
            if self.lookups >= MOST_LOOKUPS:
                return None
            self.lookups += 1
            found = ask(Ref(table, column))
            if len(known) > 2000:
                known.clear()  # another inquiry may do so at any time
            known[key] = found
        return found  # type: ignore[return-value]

    def read(self, tree: exp.Expr) -> Statement:
        """A statement that was ruled on, with its names resolved against what this person may see; read once."""
        known = self._statements.get(id(tree))
        if known is None or known.catalog is not self.catalog:
            seen = as_people_see_it(tree, self.catalog, self.source.notes.calendar)
            known = self._statements[id(tree)] = statement_of(seen, self.catalog)
        return known

    # -- telling ---------------------------------------------------------------------------------

    def counted(self, findings: list[Finding]) -> list[Finding]:
        """Findings without those of rules that were silenced for this inquiry, which are kept for a caveat."""
        for finding in findings:
            if finding.rule in self.inquiry.silenced:
                self.silenced.setdefault(finding.rule, finding)
        return [f for f in findings if f.rule not in self.inquiry.silenced]

    def ruled(self, attempt: Attempt, ruling: Ruling, texts: dict[str, str]) -> None:
        """Keeps and tells a ruling."""
        attempt.rulings.append(ruling)
        self.tell(events.Ruled(number=attempt.number, **vars(ruling)), texts)

    def found(self, attempt: Attempt, findings: list[Finding], on: str = "") -> None:
        """Keeps and tells findings. On a draft that was reviewed it is told, too, that there are none."""
        attempt.findings += findings
        if findings or on == "draft":
            told = [events.Noted(rule=f.rule, severity=f.severity, message=f.message) for f in findings]
            self.tell(events.Found(number=attempt.number, on=on, findings=told))

    def tell(self, what: events.Tellable, texts: dict[str, str] | None = None) -> None:
        """One durable event; stops here when the asker wants it to."""
        what.duty = self.duty
        self.watcher.durable(Event(what, texts or {}))
        if self.watcher.cancelled():
            raise Cancelled("stopped")
