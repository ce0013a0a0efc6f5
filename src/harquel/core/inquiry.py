"""The way of a question, from asker to answer. Read it beside the picture in docs/design.md §2.

1. brief: what the model is told
2. up to four attempts, each: model → reply taken apart → ruling on the text → dry run → ruling on
   the plan → run → review of the result; findings and errors go back to the model
3. answer, or why there is none
"""

from __future__ import annotations

import datetime as dt
import json
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import NoReturn

from harquel.contract import (
    Answer,
    Attempt,
    Caveat,
    DraftShape,
    DryRun,
    Finding,
    Inquiry,
    Outcome,
    ProblemNote,
    ResultColumn,
    ResultTable,
    ReviewShape,
    Ruling,
    RunFigures,
)
from harquel.core.answers import units_of, word
from harquel.core.briefing import brief
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.events import Event, Watcher
from harquel.core.domain.examples import Example
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.domain.result import Result
from harquel.core.domain.statements import DraftedStatement
from harquel.core.errors import Cancelled, CoreError, ModelError, SandboxError, SourceError
from harquel.core.guard import TextRuling, rule_on_plan, rule_on_text
from harquel.core.guard.guard import POLICY_RULES
from harquel.core.llm.model import LanguageModel, Message
from harquel.core.prompts import CannotReply, NoSqlReply, SqlReply, compose, feedback, take_apart
from harquel.core.review import review_result
from harquel.core.sandbox import Sandbox


@dataclass(frozen=True)
class Source:
    """All that the way of a question needs of a source; `catalog` gives the newest scan, whole."""

    name: str
    engine: str
    catalog: Callable[[], Catalog]
    policy: Policy
    notes: Notes
    examples: tuple[Example, ...]
    sandbox: Sandbox
    model: LanguageModel


class _End(Exception):
    """The inquiry ends here without an answer."""

    def __init__(self, outcome: Outcome, kind: str, title: str, hint: str = "", policy_line: str | None = None) -> None:
        super().__init__(title)
        self.outcome, self.problem = outcome, ProblemNote(type=kind, title=title, hint=hint, policy_line=policy_line)


@dataclass
class _Clock:
    """Where the time goes, in milliseconds per phase."""

    deadline: float
    spent: dict[str, float] = field(default_factory=dict)

    @contextmanager
    def phase(self, name: str) -> Iterator[None]:
        """Adds what the block takes to the phase."""
        started = time.perf_counter()
        try:
            yield
        finally:
            self.spent[name] = self.spent.get(name, 0.0) + (time.perf_counter() - started) * 1000

    def left(self) -> float:
        """Seconds until the inquiry's own limit."""
        return self.deadline - time.monotonic()


def conduct(inquiry: Inquiry, source: Source, watcher: Watcher, now: dt.datetime) -> Inquiry:
    """Takes an inquiry to its end and returns it; every way of ending is an outcome, none an exception.

    `now` is the instant that the question is about. The inquiry given is filled in place.
    """
    started = time.perf_counter()
    run = _Run(inquiry, source, watcher, now, _Clock(time.monotonic() + source.policy.limits.inquiry_s))
    try:
        run.go()
    except _End as end:
        inquiry.outcome, inquiry.problem = end.outcome, end.problem
    except Cancelled:
        inquiry.outcome = "cancelled"
        inquiry.problem = ProblemNote(type="cancelled", title="The inquiry was stopped before it ended.")
    except ModelError as error:
        _fail(inquiry, "model-unusable", error)
    except SourceError as error:
        _fail(inquiry, "source-unreachable", error)
    except CoreError as error:
        _fail(inquiry, "internal", error)
    inquiry.state = "ended"
    timings = inquiry.timings
    for phase, spent in run.clock.spent.items():
        setattr(timings, f"{phase}_ms", round(spent, 2))
    here = (time.perf_counter() - started) * 1000
    timings.total_ms = round(timings.queued_ms + here, 2)
    timings.own_ms = round(here - timings.model_ms - timings.database_ms, 2)
    return inquiry


def _fail(inquiry: Inquiry, kind: str, error: CoreError) -> None:
    inquiry.outcome = "failed"
    inquiry.problem = ProblemNote(type=kind, title=str(error), hint=error.hint)


def review_sql(sql: str, source: Source) -> ReviewShape:
    """Guard and dry run for a text that somebody wrote, without running it. Raises SourceError, SandboxError."""
    catalog = source.policy.visible(source.catalog())
    ruling = rule_on_text(DraftedStatement(sql), source.engine, catalog, source.policy)
    if ruling.statement is None:
        return ReviewShape(verdict="refuse", rulings=[ruling.ruling], findings=list(ruling.findings))
    plan = source.sandbox.plan(ruling.statement)
    on_plan, rows = rule_on_plan(plan, catalog, source.policy)
    return ReviewShape(
        verdict=on_plan.verdict,
        rulings=[ruling.ruling, on_plan],
        findings=list(ruling.findings),
        rewritten_sql=ruling.statement.sql,
        dry_run=DryRun(steps=list(plan.steps), rows=rows),
    )


@dataclass
class _Run:
    inquiry: Inquiry
    source: Source
    watcher: Watcher
    now: dt.datetime
    clock: _Clock

    def go(self) -> None:
        """Steps 1 to 3; ends by filling the answer or by raising."""
        with self.clock.phase("briefing"):
            self.catalog = self.source.policy.visible(self.source.catalog())
            briefing = brief(
                self.inquiry.question, self.catalog, self.source.notes, self.source.examples,
                self.source.policy.limits.prompt_tokens,
            )  # fmt: skip
            self.inquiry.briefing = briefing.summary
        self.tell(
            "briefed",
            tables=[t.name for t in briefing.summary.tables],
            examples=len(briefing.examples),
            tokens=briefing.summary.tokens,
            catalog=self.catalog.fingerprint,
        )
        with self.clock.phase("prompt"):
            messages = compose(self.inquiry.question, briefing, self.now, self.inquiry.asked_by)
        previous = ""
        for number in range(1, self.source.policy.limits.attempts + 1):
            attempt = Attempt(number=number)
            self.inquiry.attempts.append(attempt)
            reply = self.ask_model(attempt, messages)
            said = take_apart(reply)
            if isinstance(said, CannotReply):
                self.give_up(said)
            repair: Message
            if isinstance(said, NoSqlReply):
                finding = Finding(rule="unusable-reply", severity="error", message=said.fault)
                self.found(attempt, [finding])
                repair = feedback([finding], None)
            else:
                ruling = self.try_draft(attempt, said)
                if ruling is None:
                    return
                repair = ruling
            if reply == previous:
                break
            previous = reply
            messages += [{"role": "assistant", "content": reply}, repair]
        self.out_of_attempts()

    def ask_model(self, attempt: Attempt, messages: list[Message]) -> str:
        """One call of the model; the prompt goes on record before it, the reply after."""
        left = self.clock.left()
        if left <= 0:
            raise _End("failed", "out-of-time", "The inquiry took longer than it may.", "Ask something narrower.")
        name = self.source.model.profile.name
        prompt = json.dumps(messages, ensure_ascii=False)
        self.tell("prompted", {"prompt": prompt}, number=attempt.number, model=name)
        with self.clock.phase("model"):
            completion = self.source.model.complete(
                messages, on_piece=self.watcher.passing, stopped=self.watcher.cancelled, within_s=left
            )
        usage, profile = self.inquiry.usage, self.source.model.profile
        usage.prompt_tokens += completion.prompt_tokens
        usage.completion_tokens += completion.completion_tokens
        usage.calls += 1
        if profile.prompt_price or profile.completion_price:
            cost = usage.prompt_tokens * profile.prompt_price + usage.completion_tokens * profile.completion_price
            usage.cost = f"{cost / 1e6:.6f}"
        self.tell(
            "replied",
            {"reply": completion.text},
            number=attempt.number,
            prompt_tokens=completion.prompt_tokens,
            completion_tokens=completion.completion_tokens,
        )
        return completion.text

    def try_draft(self, attempt: Attempt, said: SqlReply) -> Message | None:
        """Rules on a draft and runs it. None: it was answered; otherwise what to tell the model."""
        attempt.draft = DraftShape(sql=said.sql, explanation=said.explanation, model=self.source.model.profile.name)
        with self.clock.phase("guard"):
            ruled = rule_on_text(said.sql, self.source.engine, self.catalog, self.source.policy)
        self.ruled(attempt, ruled.ruling, {"draft": said.sql})
        if ruled.statement is None:
            self.found(attempt, list(ruled.findings))
            return feedback(ruled.findings, None)
        attempt.rewritten_sql = ruled.statement.sql
        try:
            result = self.run_statement(attempt, ruled)
        except SandboxError as error:
            return self.stumbled(attempt, error)
        if isinstance(result, Finding):
            return feedback([result], None)
        self.answer(attempt, said, ruled, result)
        return None

    def run_statement(self, attempt: Attempt, ruled: TextRuling) -> Result | Finding:
        """Dry run, ruling on the plan, run; a Finding when the plan is refused."""
        assert ruled.statement is not None
        stopped, sandbox = self.watcher.cancelled, self.source.sandbox
        with self.clock.phase("database"):
            plan = sandbox.plan(ruled.statement, stopped, self.clock.left())
        with self.clock.phase("guard"):
            on_plan, rows = rule_on_plan(plan, self.catalog, self.source.policy)
        attempt.dry_run = DryRun(steps=list(plan.steps), rows=rows)
        self.tell("planned", number=attempt.number, steps=list(plan.steps), rows=rows)
        self.ruled(attempt, on_plan, {})
        if on_plan.verdict != "run":
            hint = "Narrow it: a shorter period, or conditions on indexed columns."
            finding = Finding(rule="plan-too-large", severity="error", message=on_plan.reason, hint=hint)
            self.found(attempt, [finding])
            return finding
        with self.clock.phase("database"):
            result = sandbox.run(ruled.statement, stopped, self.clock.left())
        attempt.run = RunFigures(row_count=len(result.rows), bytes=result.bytes, elapsed_ms=result.elapsed_ms)
        rows_text = json.dumps(result.rows, ensure_ascii=False, separators=(",", ":"))
        self.tell(
            "ran",
            {"sql": ruled.statement.sql, "rows": rows_text},
            number=attempt.number,
            row_count=len(result.rows),
            bytes=result.bytes,
            cut_by=result.cut_by,
            elapsed_ms=result.elapsed_ms,
        )
        return result

    def stumbled(self, attempt: Attempt, error: SandboxError) -> Message:
        """A run that did not come to an end: news for the model, unless the model is not to blame."""
        attempt.error = str(error)
        self.tell("stumbled", {"error": str(error)}, number=attempt.number, fault=error.fault)
        if error.fault == "source":
            raise SourceError(
                f"The database cannot be read: {error}.",
                "Check that the source is there and not locked by another program.",
            )
        limits = self.source.policy.limits
        if error.fault == "time":
            told = f"The statement ran longer than {limits.query_s:g} s and was stopped. Make it read less."
        elif error.fault == "memory":
            told = "The statement needed more memory than it may. Aggregate or narrow it."
        else:
            told = str(error)
        return feedback([], told)

    def answer(self, attempt: Attempt, said: SqlReply, ruled: TextRuling, result: Result) -> None:
        """Step 3: reviews the result and words the answer."""
        assert ruled.statement is not None
        assert ruled.tree is not None
        with self.clock.phase("review"):
            findings = review_result(result)
        self.found(attempt, findings)
        with self.clock.phase("answer"):
            units = units_of(ruled.tree, self.source.engine, self.catalog, self.source.notes)
            if len(units) != len(result.columns):
                units = [None] * len(result.columns)
            table = ResultTable(
                columns=[
                    ResultColumn(name=n, type=t, unit=u)
                    for n, t, u in zip(result.columns, result.types, units, strict=True)
                ],
                rows=result.rows,
                row_count=len(result.rows),
                cut_by=result.cut_by,
            )
            doubts = [f for f in findings if f.severity != "info"]
            self.inquiry.answer = Answer(
                text=word(table),
                caveats=[Caveat(rule=f.rule, message=f.message) for f in doubts],
                sql=ruled.statement.sql,
                explanation=said.explanation,
                table=table,
            )
        self.inquiry.outcome, self.inquiry.trust = "answered", "caution" if doubts else "clear"

    def give_up(self, said: CannotReply) -> NoReturn:
        """The model says that it cannot. Always raises."""
        if said.reason == "not-allowed":
            refused = [r for a in self.inquiry.attempts for r in a.rulings if r.verdict == "refuse"]
            line = refused[-1].policy_line if refused else "statement.reads-only"
            raise _End(
                "refused", "change-refused", "The question asks for a change; only reading is allowed here.",
                "Ask for the figures instead, or make the change in the application that owns the data.", line,
            )  # fmt: skip
        raise _End(
            "unanswerable", "not-in-data", said.why or "The data does not hold what the question needs.",
            "Ask a steward whether the data exists elsewhere, or put the question in words of the schema.",
        )  # fmt: skip

    def out_of_attempts(self) -> NoReturn:
        """No draft could be used. Always raises: refused when policy stood in the way, else failed."""
        last = self.inquiry.attempts[-1]
        refusals = [r for r in last.rulings if r.verdict == "refuse"]
        rules = {f.rule for f in last.findings}
        count = len(self.inquiry.attempts)
        if refusals and rules & POLICY_RULES:
            raise _End(
                "refused", "refused-by-policy", refusals[-1].reason,
                "Ask for something that only reads, or narrow the question.", refusals[-1].policy_line,
            )  # fmt: skip
        reason = last.findings[-1].message if last.findings else last.error or "No usable reply."
        raise _End(
            "failed", "no-usable-draft", f"No usable SQL came out of {count} attempts. The last problem: {reason}",
            "Put the question in other words, or ask a steward to describe the data that it is about.",
        )  # fmt: skip

    # -- telling ---------------------------------------------------------------------------------

    def ruled(self, attempt: Attempt, ruling: Ruling, texts: dict[str, str]) -> None:
        """Keeps and tells a ruling."""
        attempt.rulings.append(ruling)
        self.tell("ruled", texts, number=attempt.number, **ruling.model_dump())

    def found(self, attempt: Attempt, findings: list[Finding]) -> None:
        """Keeps and tells findings."""
        attempt.findings += findings
        if findings:
            told = [{"rule": f.rule, "severity": f.severity, "message": f.message} for f in findings]
            self.tell("found", number=attempt.number, findings=told)

    def tell(self, kind: str, texts: dict[str, str] | None = None, **facts: object) -> None:
        """One durable event; stops here when the asker wants it to."""
        self.watcher.durable(Event(kind, facts, texts or {}))
        if self.watcher.cancelled():
            raise Cancelled("stopped")
