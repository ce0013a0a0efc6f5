"""The way of a question, from asker to answer. Read it beside the picture in docs/design.md §2.

1. brief: what the model is told
2. up to four attempts, each: model → reply taken apart → ruling on the text → review of the draft →
   dry run → ruling on the plan → run → review of the result; findings and errors go back to the model,
   and of drafts that stay doubtful the best is answered from, with caveats
3. answer, or why there is none
"""

from __future__ import annotations

import datetime as dt
import json
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from harquel.contract import (
    Answer,
    Attempt,
    Caveat,
    DraftShape,
    DryRun,
    Finding,
    Hold,
    Inquiry,
    ProblemNote,
    ResultColumn,
    ResultTable,
    Ruling,
    RunFigures,
)
from harquel.core import endings
from harquel.core.answers import cited_measures, read_back, units_of, word
from harquel.core.briefing import CatalogIndex, brief
from harquel.core.clock import utc_now
from harquel.core.domain.catalog import Column, Table
from harquel.core.domain.events import Event, Watcher
from harquel.core.domain.examples import Example
from harquel.core.domain.person import Person
from harquel.core.domain.result import Result
from harquel.core.domain.statements import DraftedStatement
from harquel.core.domain.terms import Terms
from harquel.core.errors import Cancelled, CoreError, ModelError, SandboxError, SourceError
from harquel.core.guard import TextRuling, rule_on_plan, rule_on_text
from harquel.core.llm.model import Message
from harquel.core.phases import Phases
from harquel.core.prompts import CannotReply, MoreReply, NoSqlReply, SqlReply, compose, doubts, feedback, take_apart
from harquel.core.repair import Candidate, by_weight, changes, the_best
from harquel.core.review import Reviewed, read_question, review_draft, review_result
from harquel.core.review.probes import holds_text, tied, trace_empty
from harquel.core.review.statement import Ref, statement_of
from harquel.core.source import Source
from harquel.core.sql.tree import strings

MOST_LOOKUPS = 6
LOOK_S = 1.0
"""Seconds that a small query of ours may take."""
UNKNOWN_NAMES = frozenset({"unknown-table", "unknown-column"})


def conduct(
    inquiry: Inquiry, source: Source, watcher: Watcher, now: dt.datetime, person: Person | None = None
) -> Inquiry:
    """Takes an inquiry to its end, or to where it is held, and returns it.

    Every way of ending is an outcome, none an exception. `now` is the instant that the question is about, `person`
    in whose name it is asked. The inquiry given is filled in place.
    """
    return _carry(inquiry, source, watcher, now, person or Person(inquiry.asked_by), lambda run: run.go())


def go_on(
    inquiry: Inquiry, source: Source, watcher: Watcher, now: dt.datetime, person: Person, released_by: str
) -> Inquiry:
    """Takes a held inquiry on with the draft that it has, which is ruled on anew; see conduct."""
    return _carry(inquiry, source, watcher, now, person, lambda run: run.go_on(released_by))


def _carry(
    inquiry: Inquiry, source: Source, watcher: Watcher, now: dt.datetime, person: Person, go: Callable[[_Run], None]
) -> Inquiry:
    started = time.perf_counter()
    clock = Phases(time.monotonic() + source.policy.limits.inquiry_s)
    run = _Run(inquiry, source, watcher, now, clock, Terms(source.policy, person))
    inquiry.state = "ended"
    try:
        go(run)
    except endings.Held as held:
        inquiry.state = "held"
        inquiry.hold = Hold(policy_line=held.ruling.policy_line, reason=held.ruling.reason, since=utc_now())
    except endings.End as end:
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
    # A held inquiry is taken on later: what it took before counts too.
    timings = inquiry.timings
    here = (time.perf_counter() - started) * 1000
    own = here - run.clock.spent.get("model", 0.0) - run.clock.spent.get("database", 0.0)
    for phase, spent in run.clock.spent.items():
        setattr(timings, f"{phase}_ms", round(getattr(timings, f"{phase}_ms") + spent, 2))
    timings.total_ms = round((timings.total_ms or timings.queued_ms) + here, 2)
    timings.own_ms = round(timings.own_ms + own, 2)
    return inquiry


_PLAINLY = {
    "time": "the statement did not end in time and was stopped", "memory": "it needed more memory than is allowed",
    "source": "it did not answer",
}  # fmt: skip


def _without_figures(ruling: Ruling) -> str:
    """Why a plan was ruled so, without what it says about rows that somebody may not see."""
    return {"run": "The plan keeps to the limits.", "hold": "The plan is large: somebody releases it."}.get(
        ruling.verdict, "The plan reads more than is allowed."
    )


def _fail(inquiry: Inquiry, kind: str, error: CoreError) -> None:
    inquiry.outcome = "failed"
    inquiry.problem = ProblemNote(type=kind, title=str(error), hint=error.hint)


@dataclass
class _Run:
    inquiry: Inquiry
    source: Source
    watcher: Watcher
    now: dt.datetime
    clock: Phases
    terms: Terms
    released_by: str = ""
    index: CatalogIndex = field(init=False)
    lookups: int = 0
    candidates: list[Candidate] = field(default_factory=list)
    """Drafts that could run and about which something is doubtful."""

    def go(self) -> None:
        """Steps 1 to 3; ends by filling the answer or by raising."""
        with self.clock.phase("database"):
            fault = self.source.account_fault()
            if fault:
                raise endings.account_can_write(fault)
            self.whole = self.source.catalog(self.watcher.cancelled)
        self.looked_again = False
        self.wanted: tuple[str, ...] = ()
        messages = self.brief_model()
        try:
            if self.draft(messages):
                return
        except (ModelError, endings.End) as error:
            # What there is, with its caveats, is worth more than nothing.
            if not self.candidates or (isinstance(error, endings.End) and error.problem.type != "out-of-time"):
                raise
        if not self.settle():
            raise self.closed_table() or endings.no_usable_draft(self.inquiry.attempts)

    def draft(self, messages: list[Message]) -> bool:
        """Step 2: whether a draft without doubts was answered from."""
        previous: set[str] = set()
        for number in range(1, self.source.policy.limits.attempts + 1):
            attempt = Attempt(number=number)
            self.inquiry.attempts.append(attempt)
            reply = self.ask_model(attempt, messages)
            said = take_apart(reply)
            if isinstance(said, CannotReply):
                if said.reason == "not-allowed":
                    raise endings.change_refused(self.inquiry.attempts)
                if self.moved_on():
                    messages = self.brief_model()
                    continue
                raise self.closed_table() or endings.not_in_data(said.why)
            if isinstance(said, MoreReply) and not set(said.wanted) <= set(self.wanted):
                self.wanted += said.wanted
                message = f"The model asked for more of the catalog: {', '.join(said.wanted)}."
                self.found(attempt, [Finding(rule="asked-for-more", severity="info", message=message)])
                messages = self.brief_model()
                continue
            repair: Message
            if isinstance(said, NoSqlReply | MoreReply):
                fault = said.fault if isinstance(said, NoSqlReply) else "There is no more of the catalog than this."
                finding = Finding(rule="unusable-reply", severity="error", message=fault)
                self.found(attempt, [finding])
                repair = feedback([finding], None)
            else:
                ruling = self.try_draft(attempt, said)
                if ruling is None:
                    return True
                repair = ruling
            text = " ".join(said.sql.split()) if isinstance(said, SqlReply) else reply
            if text in previous:
                break
            previous.add(text)
            messages += [{"role": "assistant", "content": reply}, repair]
        return False

    def settle(self) -> bool:
        """Answers from the best of the doubtful drafts, with caveats; whether there was one that runs."""
        while self.candidates:
            best = the_best(self.candidates)
            self.candidates.remove(best)
            try:
                if self.deliver(best) is None:
                    return True
            except endings.Held:
                # What is released later is the last attempt: the draft that waits becomes it.
                if best.attempt is not self.inquiry.attempts[-1]:
                    again = {"number": self.inquiry.attempts[-1].number + 1}
                    self.inquiry.attempts.append(best.attempt.model_copy(update=again, deep=True))
                raise
        return False

    def go_on(self, released_by: str) -> None:
        """Step 2 from where it was held; ends by filling the answer or by raising."""
        attempt = self.inquiry.attempts[-1]
        assert attempt.draft is not None
        self.released_by = released_by
        self.looked_again = True
        with self.clock.phase("database"):
            self.whole = self.source.catalog(self.watcher.cancelled)
        with self.clock.phase("briefing"):
            self.index = self.source.describer.of(self.whole, self.terms.person)
            self.catalog = self.index.catalog
        said = SqlReply(DraftedStatement(attempt.draft.sql), attempt.draft.explanation)
        if self.try_draft(attempt, said) is not None:
            raise endings.no_usable_draft(self.inquiry.attempts)

    @property
    def restricted(self) -> bool:
        """Whether this person may see less than the service's account does: then nothing of that is told on the way."""
        return self.terms.restricts(self.catalog)

    def usable_examples(self) -> tuple[Example, ...]:
        """Those that this person may see: none with a text in it from a table that is restricted."""
        found = self.source.examples()
        if not self.restricted:
            return found
        bare = {t.name for t in self.catalog.tables if not self.terms.rules(t.name)}
        return tuple(e for e in found if set(e.tables) <= bare or not strings(e.sql, self.source.engine))

    def brief_model(self) -> list[Message]:
        """Step 1: the opening of the conversation, from the catalog as it is now."""
        with self.clock.phase("briefing"):
            self.index = self.source.describer.of(self.whole, self.terms.person)
            self.catalog = self.index.catalog
            briefing = brief(
                self.inquiry.question, self.index, self.usable_examples(), self.source.policy.limits.prompt_tokens,
                self.source.gauge, self.wanted,
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
            return compose(self.inquiry.question, briefing, self.now, self.inquiry.asked_by)

    def moved_on(self) -> bool:
        """Looks at the database again, once an inquiry: whether its structure is another than we thought."""
        if self.looked_again:
            return False
        self.looked_again = True
        with self.clock.phase("database"):
            newest = self.source.refreshed(self.watcher.cancelled)
        moved = newest.fingerprint != self.whole.fingerprint
        self.whole = newest
        return moved

    def closed_table(self) -> endings.End | None:
        """The ending for a table that is there and may not be read by us, if that is what is asked about."""
        return endings.closed_table(
            self.inquiry.question, self.inquiry.attempts, self.whole, self.source.policy, self.source.grant
        )

    def ask_model(self, attempt: Attempt, messages: list[Message]) -> str:
        """One call of the model; the prompt goes on record before it, the reply after."""
        left = self.clock.left()
        if left <= 0:
            raise endings.out_of_time()
        name = self.source.model.profile.name
        prompt = json.dumps(messages, ensure_ascii=False)
        self.tell("prompted", {"prompt": prompt}, number=attempt.number, model=name)
        with self.clock.phase("model"):
            completion = self.source.model.complete(
                messages, on_piece=self.watcher.passing, stopped=self.watcher.cancelled, within_s=left
            )
        self.source.gauge.learn(sum(len(m["content"]) for m in messages), completion.prompt_tokens)
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
        ruled = self.rule(said.sql)
        if {f.rule for f in ruled.findings} & UNKNOWN_NAMES and self.moved_on():
            # The model may know better than our catalog did.
            with self.clock.phase("briefing"):
                self.index = self.source.describer.of(self.whole, self.terms.person)
                self.catalog = self.index.catalog
            ruled = self.rule(said.sql)
        ruling = self.released(ruled.ruling)
        self.ruled(attempt, ruling, {"draft": said.sql})
        if ruled.statement is None:
            self.found(attempt, list(ruled.findings))
            return feedback(ruled.findings, None)
        attempt.rewritten_sql = ruled.statement.sql
        earlier = next((a.draft.sql for a in reversed(self.inquiry.attempts[:-1]) if a.draft is not None), None)
        if earlier is not None:
            attempt.changes = changes(earlier, said.sql)
        reviewed = self.review(ruled)
        candidate = Candidate(attempt, said, ruled, ruling, reviewed.findings, reviewed.context)
        self.found(attempt, candidate.findings, on="draft")
        if candidate.doubts and not self.released_by:
            self.candidates.append(candidate)
            return doubts(candidate.doubts)
        return self.deliver(candidate)

    def review(self, ruled: TextRuling) -> Reviewed:
        """What is doubtful about a draft that may run."""
        assert ruled.tree is not None
        with self.clock.phase("review"):
            question = read_question(self.inquiry.question, self.now, self.index.meanings)
            return review_draft(ruled.tree, question, self.index, self.usable_examples(), self.holds)

    def holds(self, table: Table, column: Column, value: str) -> bool | None:
        """Whether a column holds a text; asked of the database once for each version of the catalog."""
        # What is there for somebody with row rules is nobody else's business.
        whose = self.terms.person.name if self.restricted else ""
        key = (self.catalog.fingerprint, self.terms.signature(), whose, table.name, column.name, value)
        known = self.source.looked_up
        if key not in known:
            if self.lookups >= MOST_LOOKUPS:
                return None
            self.lookups += 1
            if len(known) > 2000:
                known.clear()
            known[key] = holds_text(Ref(table, column), value, self.source.engine, self.look)
        return known[key]

    def deliver(self, candidate: Candidate) -> Message | None:
        """Runs a draft and answers from it. None: it was answered; otherwise what to tell the model."""
        self.may_go(candidate.ruling)
        try:
            result = self.run_statement(candidate.attempt, candidate.ruled)
        except SandboxError as error:
            return self.stumbled(candidate.attempt, error)
        if isinstance(result, Finding):
            return feedback([result], None)
        self.answer(candidate, result)
        return None

    def rule(self, sql: DraftedStatement) -> TextRuling:
        """The ruling on a text."""
        with self.clock.phase("guard"):
            return rule_on_text(
                sql, self.source.engine, self.catalog, self.source.policy, self.terms.person, self.whole
            )

    def released(self, ruling: Ruling) -> Ruling:
        """The ruling, once somebody has released what it holds."""
        if ruling.verdict != "hold" or not self.released_by:
            return ruling
        return ruling.model_copy(update={"verdict": "run", "reason": f"Released by {self.released_by}."})

    def may_go(self, ruling: Ruling) -> None:
        """Raises Held for what waits for a release that nobody has given."""
        if ruling.verdict == "hold":
            raise endings.Held(ruling)

    def run_statement(self, attempt: Attempt, ruled: TextRuling) -> Result | Finding:
        """Dry run, ruling on the plan, run; a Finding when the plan is refused."""
        assert ruled.statement is not None
        stopped, sandbox = self.watcher.cancelled, self.source.sandbox
        with self.clock.phase("database"):
            plan = sandbox.plan(ruled.statement, stopped, self.clock.left())
        with self.clock.phase("guard"):
            on_plan, rows = rule_on_plan(plan, self.whole, self.source.policy)
        # What a plan expects, it expects of all rows.
        shown = () if self.restricted else plan.steps
        if not self.restricted:
            attempt.dry_run = DryRun(steps=list(shown), rows=rows, cost=plan.cost)
        self.tell("planned", number=attempt.number, steps=list(shown), rows=None if self.restricted else rows)
        if self.restricted:
            on_plan = on_plan.model_copy(update={"reason": _without_figures(on_plan)})
        on_plan = self.released(on_plan)
        self.ruled(attempt, on_plan, {})
        self.may_go(on_plan)
        if on_plan.verdict == "refuse":
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
        # The words of a database can hold a value of a row that this person may not see.
        words = _PLAINLY.get(error.fault, "the database turned the statement down") if self.restricted else str(error)
        attempt.error = words
        self.tell("stumbled", {"error": words}, number=attempt.number, fault=error.fault)
        if error.fault == "still":
            raise endings.standing_still()
        if error.fault == "source":
            raise SourceError(
                f"The database cannot be read: {words}.",
                "Check that the source is there and not locked by another program.",
            )
        limits = self.source.policy.limits
        if error.fault == "time":
            told = f"The statement ran longer than {limits.query_s:g} s and was stopped. Make it read less."
        elif error.fault == "memory":
            told = "The statement needed more memory than it may. Aggregate or narrow it."
        else:
            told = words
        return feedback([], told)

    def answer(self, candidate: Candidate, result: Result) -> None:
        """Step 3: reviews the result and words the answer."""
        attempt, said, ruled = candidate.attempt, candidate.said, candidate.ruled
        assert ruled.statement is not None
        assert ruled.tree is not None
        with self.clock.phase("review"):
            findings = self.doubt_result(candidate, result)
        self.found(attempt, findings)
        with self.clock.phase("answer"):
            statement = statement_of(ruled.tree, self.catalog)
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
            doubtful = by_weight([*candidate.findings, *findings])
            self.inquiry.answer = Answer(
                text=word(table),
                caveats=[Caveat(rule=f.rule, message=f.message) for f in doubtful],
                sql=ruled.statement.sql,
                read_back=read_back(statement, self.source.notes, "de" if self.inquiry.language == "de" else "en"),
                explanation=said.explanation,
                table=table,
                measures=cited_measures(statement, self.source.notes),
            )
        self.inquiry.outcome, self.inquiry.trust = "answered", "caution" if doubtful else "clear"

    def doubt_result(self, candidate: Candidate, result: Result) -> list[Finding]:
        """What is doubtful about a result; where something is missing, small queries find out why."""
        context, terms = candidate.context, self.source.policy.review
        found = review_result(result, context)
        missing = next((f for f in found if f.rule in ("result-empty", "result-all-null")), None)
        count = result.rows == [[0]]
        if context is not None and (missing is not None or count):
            traced = trace_empty(context.statement, self.source.engine, self.look)
            if traced is not None:
                found = [traced, *(f for f in found if f is not missing)]
        elif context is not None and result.cut_by is None:
            level = tied(context.statement, self.source.engine, self.look)
            found += [level] if level is not None else []
        return [f for f in map(terms.apply, found) if f is not None]

    def look(self, sql: str) -> list[list[Any]] | None:
        """A small query of ours beside the draft: ruled on and run like any other, within a second."""
        ruled = self.rule(DraftedStatement(sql))
        if ruled.statement is None or ruled.ruling.verdict != "run":
            return None
        try:
            with self.clock.phase("database"):
                return self.source.sandbox.run(
                    ruled.statement, self.watcher.cancelled, min(LOOK_S, self.clock.left())
                ).rows
        except SandboxError:
            return None

    # -- telling ---------------------------------------------------------------------------------

    def ruled(self, attempt: Attempt, ruling: Ruling, texts: dict[str, str]) -> None:
        """Keeps and tells a ruling."""
        attempt.rulings.append(ruling)
        self.tell("ruled", texts, number=attempt.number, **ruling.model_dump())

    def found(self, attempt: Attempt, findings: list[Finding], on: str = "") -> None:
        """Keeps and tells findings. On a draft that was reviewed it is told, too, that there are none."""
        attempt.findings += findings
        if findings or on == "draft":
            told = [{"rule": f.rule, "severity": f.severity, "message": f.message} for f in findings]
            self.tell("found", number=attempt.number, on=on, findings=told)

    def tell(self, kind: str, texts: dict[str, str] | None = None, **facts: object) -> None:
        """One durable event; stops here when the asker wants it to."""
        self.watcher.durable(Event(kind, facts, texts or {}))
        if self.watcher.cancelled():
            raise Cancelled("stopped")
