"""The way of a question, from asker to answer. Read it beside the picture in docs/design.md §2.

1. brief: what the models are told. One drafts, one reads the question at the same time
2. up to four attempts, each: reply taken apart → ruling on the text → review of the draft → dry run → ruling on the
   plan → run → review of the result → a second way beside it, from the reading; what the question leaves open is asked
   back there. Findings, errors and differences go back to the model, and of drafts that stay doubtful the best is
   answered from, with caveats; a caveat, too, that no second way confirms it
3. answer, or why there is none
"""

from __future__ import annotations

import copy
import datetime as dt
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field, replace

from harquel.contract import events
from harquel.core.briefing import pick_examples
from harquel.core.clock import utc_now
from harquel.core.domain.events import Watcher
from harquel.core.domain.findings import Finding
from harquel.core.domain.inquiry import Attempt, Draft, Hold, Inquiry
from harquel.core.domain.person import Person
from harquel.core.domain.result import Result
from harquel.core.domain.statements import DraftedStatement
from harquel.core.errors import Cancelled, CoreError, ModelError, SandboxError, SourceError
from harquel.core.inquiry import endings
from harquel.core.inquiry.again import run_again
from harquel.core.inquiry.answer import fill_answer
from harquel.core.inquiry.briefed import Briefed
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.doubt import asked, doubt_draft, doubt_result
from harquel.core.inquiry.follow import answer_claim, restate
from harquel.core.inquiry.open_point import OpenPoint, Way
from harquel.core.inquiry.phases import Phases
from harquel.core.inquiry.redrafted import compare
from harquel.core.inquiry.repair import Candidate, changes, ranked
from harquel.core.inquiry.run import Run, may_go, result_of, run_beside, stumbled
from harquel.core.inquiry.second_opinion import DIFFERS, SecondWay
from harquel.core.inquiry.source import Source
from harquel.core.inquiry.worded import word_answer
from harquel.core.language.say import in_language, said_as
from harquel.core.llm.model import Message
from harquel.core.prompts import (
    AskReply,
    CannotReply,
    MoreReply,
    NoSqlReply,
    Prompts,
    Reply,
    SqlReply,
    doubts,
    feedback,
    take_apart,
)
from harquel.core.review.result import refuted

UNKNOWN_NAMES = frozenset({"unknown-table", "unknown-column"})


def conduct(
    inquiry: Inquiry, source: Source, watcher: Watcher, now: dt.datetime, person: Person | None = None,
    before_s: float = 0.0,
) -> Inquiry:  # fmt: skip
    """Takes an inquiry to its end, or to where it is held, and returns it.

    Every way of ending is an outcome, none an exception. `now` is the instant that the question is about, `person`
    in whose name it is asked, `before_s` the seconds of its clock that getting the source ready has taken already. The
    inquiry given is filled in place.
    """
    person = person or Person(inquiry.asked_by)
    return _carry(inquiry, source, watcher, now, person, lambda run: run.go(), before_s)


def go_on(
    inquiry: Inquiry, source: Source, watcher: Watcher, now: dt.datetime, person: Person, released_by: str
) -> Inquiry:
    """Takes a held inquiry on with the draft that it has, which is ruled on anew; see conduct."""
    return _carry(inquiry, source, watcher, now, person, lambda run: run.go_on(released_by))


def _carry(
    inquiry: Inquiry, source: Source, watcher: Watcher, now: dt.datetime, person: Person, go: Callable[[_Run], None],
    before_s: float = 0.0,
) -> Inquiry:  # fmt: skip
    started = time.perf_counter()
    clock = Phases(time.monotonic() + source.policy.allowed_s(inquiry.wants_whole) - before_s)
    shown = source.notes.calendar.here(now)
    run = _Run(Course(inquiry, source, watcher, shown, clock, source.describer.terms(person)))
    inquiry.state = "ended"
    try:
        go(run)
    except endings.Held as held:
        inquiry.state = "held"
        reason = in_language(held.ruling.reason, inquiry.language)
        inquiry.hold = Hold(policy_line=held.ruling.policy_line, reason=reason, since=utc_now())
    except endings.AskedBack as open_:
        inquiry.outcome, inquiry.clarify = "clarify", open_.told(inquiry.language)
        inquiry.sight = "" if inquiry.between else run.course.sight()
    except endings.End as end:
        inquiry.outcome, inquiry.problem = end.outcome, endings.told(end.problem, inquiry.language)
    except Cancelled:
        inquiry.outcome, inquiry.problem = "cancelled", endings.cancelled(inquiry.language)
    except ModelError as error:
        beyond = error.fault == "budget"
        kind = "over-budget" if beyond else "model-unusable"
        inquiry.outcome = "refused" if beyond else "failed"
        inquiry.problem = endings.failed(kind, error, inquiry.language)
    except SourceError as error:
        inquiry.outcome, inquiry.problem = "failed", endings.failed("source-unreachable", error, inquiry.language)
    except CoreError as error:
        inquiry.outcome, inquiry.problem = "failed", endings.failed("internal", error, inquiry.language)
    if inquiry.second_opinion is not None:
        inquiry.second_opinion.said = in_language(inquiry.second_opinion.said, inquiry.language)
    if inquiry.state == "ended":
        # Rows are kept once, with the answer that they belong to; sources to choose from, with the choices.
        inquiry.again, inquiry.earlier, inquiry.between = None, None, []
    # A held inquiry is taken on later: what it took before counts too.
    timings = inquiry.timings
    here = (time.perf_counter() - started) * 1000
    own = here - clock.spent.get("model", 0.0) - clock.spent.get("database", 0.0)
    for phase, spent in clock.spent.items():
        setattr(timings, f"{phase}_ms", round(getattr(timings, f"{phase}_ms") + spent, 2))
    timings.total_ms = round((timings.total_ms or timings.queued_ms) + here, 2)
    timings.own_ms = round(timings.own_ms + own, 2)
    return inquiry


@dataclass
class _Run:
    course: Course
    candidates: list[Candidate] = field(default_factory=list)
    """Drafts that could run and about which something is doubtful."""
    briefed: Briefed = field(init=False)
    second: SecondWay = field(init=False)

    def __post_init__(self) -> None:
        self.briefed = Briefed(self.course)
        self.second = SecondWay(self.course, self.briefed.now)

    @property
    def inquiry(self) -> Inquiry:
        """What comes of it."""
        return self.course.inquiry

    @property
    def prompts(self) -> Prompts:
        """By which templates its models are told what they are."""
        return self.course.source.prompts

    def go(self) -> None:
        """Steps 1 to 3; ends by filling the answer or by raising."""
        if self.inquiry.between:
            raise endings.AskedBack(endings.which_source(self.inquiry.between))
        self.course.open()
        if self.inquiry.again is not None:
            run_again(self.course)
            return
        restate(self.course)
        messages = self.briefed.open_conversation()
        try:
            if self.draft(messages):
                return
        except (ModelError, endings.End) as error:
            # What there is, with its caveats, is worth more than nothing.
            bounded = isinstance(error, ModelError) or error.problem.type in ("out-of-time", "out-of-tokens")
            if not self.candidates or not bounded:
                raise
        if not self.settle():
            raise self.closed_table() or endings.no_usable_draft(self.inquiry.attempts)

    def go_on(self, released_by: str) -> None:
        """Step 2 from where it was held; ends by filling the answer or by raising."""
        attempt = self.inquiry.attempts[-1]
        assert attempt.draft is not None
        course = self.course
        course.released_by, course.looked_again = released_by, True
        with course.clock.phase("database"):
            course.whole = course.source.catalog(course.watcher.cancelled)
        course.describe()
        if self.inquiry.again is not None:
            run_again(course)
            return
        said = SqlReply(DraftedStatement(attempt.draft.sql), attempt.draft.explanation)
        if self.try_draft(attempt, said) is not None:
            raise endings.no_usable_draft(self.inquiry.attempts)

    # -- 1 ---------------------------------------------------------------------------------------

    def asked_back(self, point: OpenPoint) -> endings.AskedBack:
        """The ending, told on the way."""
        self.course.tell(events.AskedBack(readings=[w.label for w in point.ways]))
        return endings.AskedBack(point)

    # -- 2 ---------------------------------------------------------------------------------------

    def draft(self, messages: list[Message]) -> bool:
        """Whether a draft without doubts was answered from."""
        previous: set[str] = set()
        for number in range(1, self.course.source.policy.limits.attempts + 1):
            attempt = Attempt(number=number)
            self.inquiry.attempts.append(attempt)
            reply, messages = self.replied(messages, number)
            said = take_apart(reply, self.course.cut)
            if isinstance(said, CannotReply):
                if said.reason == "not-allowed":
                    raise endings.change_refused(self.inquiry.attempts)
                if self.course.moved_on():
                    messages = self.briefed.open_conversation()
                    continue
                raise self.closed_table() or endings.not_in_data(said.why, self.answered_here())
            if isinstance(said, MoreReply) and self.briefed.more(said.wanted):
                message = f"The model asked for more of the catalog: {', '.join(said.wanted)}."
                self.course.found(attempt, [Finding(rule="asked-for-more", severity="info", message=message)])
                messages = self.briefed.open_conversation()
                continue
            repair = self.try_draft(attempt, said) if isinstance(said, SqlReply) else self.no_draft(attempt, said)
            if repair is None:
                return True
            if attempt.error is not None and self.course.moved_on():
                # The database knows another structure than we did: the model is not to blame, and is told anew.
                messages = self.briefed.open_conversation()
                continue
            text = " ".join(said.sql.split()) if isinstance(said, SqlReply) else reply
            if text in previous:
                break
            previous.add(text)
            messages += [{"role": "assistant", "content": reply}, repair]
        return False

    def replied(self, messages: list[Message], number: int) -> tuple[str, list[Message]]:
        """What who drafts says, and to what: who cannot read so much is told half of it, with nothing said before."""
        while True:
            try:
                if number == 1:
                    return self.second.first_draft(messages, number), messages
                return self.course.ask(self.course.source.model, messages, number), messages
            except ModelError as error:
                if error.fault != "context" or not self.briefed.less():
                    raise
                messages = self.briefed.open_conversation()

    def answered_here(self) -> list[str]:
        """The examples nearest to the question, as questions that somebody could ask instead."""
        return [e.question for e in pick_examples(asked(self.course), self.course.usable_examples(), 3)]

    def no_draft(self, attempt: Attempt, said: Reply) -> Message:
        """What to tell the model instead of running something. Raises AskedBack when it wants to know more of us."""
        fault = "There is no more of the catalog than this."
        if isinstance(said, AskReply):
            if self.inquiry.choice is None and self.course.source.policy.review.two_readings == "ask":
                ways = tuple(Way(str(n), text, text) for n, text in enumerate(said.readings, 1))
                raise self.asked_back(OpenPoint(said_as("model-asks", question=endings.quote(said.question)), ways))
            fault = "Nobody can be asked: take the reading that is likelier and say in the explanation which it is."
        elif isinstance(said, NoSqlReply):
            fault = said.fault
        finding = Finding(rule="unusable-reply", severity="error", message=fault)
        self.course.found(attempt, [finding])
        return feedback([finding], None, self.prompts)

    def try_draft(self, attempt: Attempt, said: SqlReply) -> Message | None:
        """Rules on a draft and runs it. None: it was answered; otherwise what to tell the model."""
        course = self.course
        # Of one that is released it is known who drafted it: nobody is asked again.
        attempt.draft = attempt.draft or Draft(
            sql=said.sql, explanation=said.explanation, model=course.by, template=self.prompts.version("draft"),
            reused=course.reused,
        )  # fmt: skip
        ruled = course.rule(said.sql)
        if {f.rule for f in ruled.findings} & UNKNOWN_NAMES and course.moved_on():
            ruled = course.rule(said.sql)
        ruling = course.released(ruled.ruling)
        course.ruled(attempt, ruling, {"draft": said.sql})
        if ruled.statement is None:
            course.found(attempt, list(ruled.findings))
            return feedback(ruled.findings, None, self.prompts)
        attempt.rewritten_sql = ruled.statement.sql
        earlier = next((a.draft.sql for a in reversed(self.inquiry.attempts[:-1]) if a.draft is not None), None)
        if earlier is not None:
            attempt.changes = changes(earlier, said.sql)
        reviewed = doubt_draft(course, ruled)
        candidate = Candidate(attempt, said, ruled, ruling, reviewed.findings, reviewed.context)
        course.found(attempt, candidate.findings, on="draft")
        if course.released_by or not candidate.doubts:
            return self.deliver(candidate)
        if self.may_be_outweighed(candidate):
            # Nobody is asked to release what is doubtful, as long as it may still be mended.
            with suppress(endings.Held):
                return self.deliver(candidate)
        self.candidates.append(candidate)
        return doubts(candidate.doubts, self.prompts)

    def may_be_outweighed(self, candidate: Candidate) -> bool:
        """Whether a second way can settle what is doubtful about a draft, so that it runs before it goes back."""
        return (
            candidate.of_words and self.second.independent and self.second.wanted(doubtful=True)
            and candidate.ruling.verdict == "run"
        )  # fmt: skip

    def settle(self) -> bool:
        """Answers from the best of the doubtful drafts, with caveats; whether there was one that runs."""
        gave_nothing: Candidate | None = None
        for best in ranked(self.candidates) if self.candidates else ():
            try:
                if self.run(best) is not None:
                    continue
            except endings.Held:
                # What is released later is the last attempt: the draft that waits becomes it.
                if best.attempt is not self.inquiry.attempts[-1]:
                    number = self.inquiry.attempts[-1].number + 1
                    self.inquiry.attempts.append(replace(copy.deepcopy(best.attempt), number=number))
                raise
            # A draft that gives nothing loses to one that gives something.
            assert best.result is not None
            if all(value is None for row in best.result.rows for value in row):
                gave_nothing = gave_nothing or best
                continue
            self.answer(best)
            return True
        if gave_nothing is not None:
            self.answer(gave_nothing)
        return gave_nothing is not None

    def deliver(self, candidate: Candidate) -> Message | None:
        """Runs a draft and answers from it. None: it was answered; otherwise what to tell the model."""
        known = len(candidate.findings)
        told = self.run(candidate)
        if told is not None:
            return told
        # What only the rows show is told beside them; what a draft or another way says against it goes back.
        against = [f for f in candidate.doubts if f in candidate.findings[:known] or f.rule == DIFFERS]
        if against and not self.course.released_by:
            self.candidates.append(candidate)
            return doubts([self.second.for_model(f) for f in against], self.prompts)
        self.answer(candidate)
        return None

    def run(self, candidate: Candidate) -> Message | None:
        """Runs a draft, once, and weighs what came of it. None: it ran; otherwise what to tell the model."""
        course, attempt = self.course, candidate.attempt
        if candidate.result is None:
            result = self.result_of(candidate)
            if not isinstance(result, Result):
                return result
            candidate.result = result
            found = doubt_result(course, candidate, result)
            course.found(attempt, found)
            if candidate.context is not None:
                candidate.findings = refuted(candidate.findings, candidate.context, result)
            candidate.findings = [*candidate.findings, *found]
        # What another way has said once is held against every draft, whether or not a word of it is doubtful.
        if candidate.opinion is not None:
            return None
        known = self.inquiry.second_opinion is not None
        if known or self.second.wanted(bool(candidate.doubts)):
            self.second.beside(candidate)
        course.found(attempt, self.second.unconfirmed(candidate))
        return None

    def result_of(self, candidate: Candidate) -> Result | Message:
        """Runs a draft, and the control beside it: what came of it, or what to tell the model. Raises Held."""
        may_go(candidate.ruling)
        one = Run(candidate.attempt, candidate.ruled)
        control = self.second.ready(candidate)
        run_beside(self.course, one, *([control] if control is not None else ()))
        try:
            result = result_of(one)
        except SandboxError as error:
            told = stumbled(self.course, candidate.attempt, error)
            return feedback([], told, self.prompts)
        return feedback([result], None, self.prompts) if isinstance(result, Finding) else result

    def closed_table(self) -> endings.End | None:
        """The ending for a table that is there and may not be read by us, if that is what is asked about."""
        source = self.course.source
        return endings.closed_table(
            asked(self.course), self.inquiry.attempts, self.course.whole, source.policy, source.grant
        )

    # -- 3 ---------------------------------------------------------------------------------------

    def answer(self, candidate: Candidate) -> None:
        """Words the answer from a draft that has run."""
        assert candidate.result is not None
        findings = list(candidate.findings)
        # Of the drafts that were compared, it is this one that is answered from.
        self.inquiry.second_opinion = candidate.opinion or self.inquiry.second_opinion
        point = self.second.point
        if point is not None:
            findings.append(Finding(rule="two-readings", severity="warning", message=point.told()))
        confirmed = self.second.confirmed(candidate)
        fill_answer(self.course, candidate, findings, confirmed)
        word_answer(self.course, candidate, confirmed)
        answer_claim(self.course)
        compare(self.course, candidate)
