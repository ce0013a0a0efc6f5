"""The second way to a figure, and its result beside the first one's: a control, or another draft.

A control is built by us from a reading of the question, where a model has the duty to read; where none is built, a
draft of another model takes its place. Neither shares anything with the first draft but the question. Two such ways
that give the same rows are evidence that no wording of a statement can fake: doubts about words count no longer then.
What is wrong with a statement whatever was asked, counts on.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Final

from harquel.contract import events
from harquel.core.answers import read_back
from harquel.core.answers.agreement import Agreement, agreement, difference, places_of
from harquel.core.briefing import Briefing
from harquel.core.domain.findings import COVERAGE, REPEATED, TOLD, Finding
from harquel.core.domain.inquiry import Attempt, Draft, SecondOpinion
from harquel.core.domain.result import Result
from harquel.core.domain.statements import DraftedStatement
from harquel.core.domain.understood import Offer, UnderstoodPart
from harquel.core.errors import ModelError, SandboxError, SourceError
from harquel.core.guard import TextRuling
from harquel.core.inquiry import endings
from harquel.core.inquiry.alike import alike, in_its_units, in_order
from harquel.core.inquiry.answer import Confirmed, language, table_of
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.doubt import asked, doubt_draft
from harquel.core.inquiry.meant import meant_otherwise, meant_so, on_the_other_side
from harquel.core.inquiry.open_point import OpenPoint
from harquel.core.inquiry.repair import Candidate
from harquel.core.inquiry.run import Run, may_go, result_of, run_statement, stumbled
from harquel.core.inquiry.understood import Built, built_from, understood, wish
from harquel.core.inquiry.what_differs import explained
from harquel.core.language.say import in_language, said_as
from harquel.core.llm.model import LanguageModel, Message
from harquel.core.prompts import SqlReply, compose, take_apart
from harquel.core.reading import Instead, Reading, instead_of, pieces, understood_as

DUTY: Final = "second opinion"
CONTROL: Final = "control"
"""What is done for the second way is told as that: a draft of another model, or our own statement from a reading."""
DIFFERS: Final = "second-differs"
_UNCONFIRMED: Final = Finding(
    rule="unconfirmed", severity="warning", hint="Read the SQL, or put the question in other words.",
    message=said_as("caveat-unconfirmed"),
)  # fmt: skip
_BESIDE: Final = replace(
    _UNCONFIRMED,
    message=said_as("caveat-unconfirmed-beside"),
)


class SecondWay:
    """Asked for once an inquiry; compared with each draft that has run."""

    def __init__(self, course: Course, briefing: Callable[[], Briefing]) -> None:
        self._course, self._briefing = course, briefing
        self._ruled: TextRuling | None = None
        self._result: Result | None = None
        self._same: Agreement | None = None
        self.point: OpenPoint | None = None
        """What the question leaves open, where that is only told."""
        self._read: tuple[list[Message], str | ModelError] | None = None
        """What the reader was told beside the first draft, and said."""
        self._reading: Reading | None = None
        """That from which the second way was built."""
        self._offered: list[Instead] = []
        """What its parts could have meant instead."""
        self._begun: tuple[Attempt, SecondOpinion] | None = None
        """The control, as far as it was made before the first draft ran."""
        self._run: Run | None = None
        """Its run beside that draft's."""

    @property
    def independent(self) -> bool:
        """Whether it shares nothing with the first way but the question.

        A reading is put into SQL by us, with notes and measures, whoever reads; who drafts twice repeats itself.
        """
        opinion, source = self._course.inquiry.second_opinion, self._course.source
        controlled = self._reads(True) if opinion is None else opinion.reading is not None
        return controlled or source.second is not None

    def wanted(self, doubtful: bool) -> bool:
        """Whether the policy asks for one."""
        return self._reads(doubtful) or self._drafts()

    def _reads(self, doubtful: bool) -> bool:
        source = self._course.source
        terms = source.policy.review.control
        return source.reader is not None and (terms == "always" or (doubtful and terms == "in-doubt"))

    def _drafts(self) -> bool:
        """Whether another draft may take its place where no control can be built."""
        source = self._course.source
        terms = source.policy.review.second_opinion
        return terms in ("always", "in-doubt") or (terms is None and source.second is not None)

    def first_draft(self, messages: list[Message], number: int) -> str:
        """What the drafting model says; the question is read at the same time where that is certain to be wanted."""
        course, reader = self._course, self._course.source.reader
        if reader is None or not self._reads(doubtful=False):
            return course.ask(course.source.model, messages, number)
        asked_for = wish(course, self._briefing)
        if course.read_as is not None:
            self._read = asked_for, json.dumps(course.read_as.told())
            return course.ask(course.source.model, messages, number)
        reply, read = course.ask_beside(messages, reader, asked_for, CONTROL, number)
        self._read = asked_for, read
        return reply

    def ready(self, candidate: Candidate) -> Run | None:
        """The control, to be run at the same time as a draft: where it can be built from what the reader has said."""
        course, reader = self._course, self._course.source.reader
        known = self._begun is not None or course.inquiry.second_opinion is not None
        if reader is None or self._read is None or known or course.released_by:
            return None
        reply = self._read[1]
        if isinstance(reply, ModelError):
            return None
        with course.doing(CONTROL):
            built = built_from(course, reply)
            if not isinstance(built, Built):
                return None
            attempt, opinion = Attempt(number=candidate.attempt.number), SecondOpinion(model=reader.profile.name)
            self._begun = attempt, opinion
            self._take(built, attempt, opinion)
        ruled, drafted = self._ruled, candidate.ruled.statement
        if ruled is None or ruled.statement is None or ruled.ruling.verdict != "run":
            return None
        if drafted is not None and drafted.sql == ruled.statement.sql:
            return None
        self._run = Run(attempt, ruled, CONTROL)
        return self._run

    def beside(self, candidate: Candidate) -> None:
        """Lays it beside a draft that has run: a caveat when it says something else, fewer when it says the same.

        Kept with the inquiry. Whatever goes wrong with the second draft is recorded and does the first one no harm.
        """
        assert candidate.result is not None
        course, begun = self._course, self._begun
        attempt = begun[0] if begun is not None else Attempt(number=0)
        attempt.number = candidate.attempt.number
        candidate.findings = [f for f in candidate.findings if f.rule != DIFFERS]
        asked_before = course.inquiry.second_opinion
        opinion = replace(asked_before or (begun[1] if begun is not None else SecondOpinion(model="")))
        course.inquiry.second_opinion = candidate.opinion = opinion
        opinion.agrees = opinion.table = self._same = None
        released, course.released_by = course.released_by, ""
        course.duty = CONTROL if opinion.reading is not None else DUTY
        try:
            if asked_before is None:
                self._work_out(attempt, opinion, bool(candidate.doubts))
            if self._ruled is not None:
                self._compare(candidate.result, candidate.ruled, self._ruled, attempt, opinion)
            if asked_before is None:
                self._ask_what_is_meant()
        except (ModelError, SourceError) as error:
            opinion.said = error.said
        except endings.End as end:
            opinion.said = end.problem.title
        except endings.Held as held:
            opinion.said = said_as("second-held", reason=held.ruling.reason)
        finally:
            course.released_by, course.duty = released, ""
        self._settle(candidate, opinion)
        compared = events.Compared(number=attempt.number, agrees=opinion.agrees, model=opinion.model)
        course.tell(compared, {"said": in_language(opinion.said, course.inquiry.language)})
        if opinion.agrees is False:
            candidate.findings += self._counted(_differs(opinion))

    def _ask_what_is_meant(self) -> None:
        """Raises AskedBack, or keeps to be told, what can be meant in ways that come to different results."""
        course, reading = self._course, self._reading
        if reading is None or self._result is None or course.inquiry.choice is not None:
            return
        point = meant_otherwise(course, reading, self._result)
        if point is not None and course.source.policy.review.two_readings == "ask":
            course.duty = ""
            course.tell(events.AskedBack(readings=[w.label for w in point.ways]))
            # What another way has said about an answer that nobody gets is in the trail.
            course.inquiry.second_opinion = None
            raise endings.AskedBack(point)
        self.point = point

    def _settle(self, candidate: Candidate, opinion: SecondOpinion) -> None:
        """Doubts that agreement settles are told from now on, and count no longer."""
        same = self._same
        if same is None or not self.independent:
            return
        outweighed = (
            COVERAGE | (REPEATED if opinion.reading is not None else frozenset()) if same.whole else frozenset()
        )
        settled = [f.rule for f in candidate.doubts if f.rule in outweighed]
        # That so many were wanted is what a reading says; of two drafts both may have cut where nobody asked for it.
        wanted = self._reading is not None and self._reading.top is not None
        told = outweighed | (TOLD if wanted else frozenset())
        candidate.findings = [replace(f, severity="info") if f.rule in told else f for f in candidate.findings]
        if settled:
            opinion.said = said_as("second-settles", said=opinion.said, rules=", ".join(dict.fromkeys(settled)))

    def unconfirmed(self, candidate: Candidate) -> list[Finding]:
        """The finding, added to the draft's, that no other way gives the same rows; none where one does, or differs."""
        opinion = candidate.opinion
        agrees = opinion.agrees if opinion is not None else None
        alone = agrees and self._same is not None and self._same.beside
        said = any(f.rule == _UNCONFIRMED.rule for f in candidate.findings)
        if said or agrees is False or (agrees and self.independent and not alone):
            return []
        added = self._counted(_BESIDE if alone else _UNCONFIRMED)
        candidate.findings = [*candidate.findings, *added]
        return added

    def _counted(self, finding: Finding) -> list[Finding]:
        """As it counts here: by the policy, and by whoever asked."""
        found = self._course.source.policy.review.apply(finding)
        return self._course.counted([found] if found is not None else [])

    def confirmed(self, candidate: Candidate) -> Confirmed | None:
        """How the question was read whose control gives a draft's rows, and which columns hold what that gives."""
        opinion, result = candidate.opinion, candidate.result
        if opinion is None or not opinion.agrees or self._reading is None or self._result is None or result is None:
            return None
        return Confirmed(self._reading, places_of(result, self._result))

    def for_model(self, finding: Finding) -> Finding:
        """The same for the drafting model: figures of a result only where values may leave for a model."""
        source = self._course.source
        may_leave = source.policy.prompts.values == "all" and not self._course.restricted
        if finding.rule != DIFFERS or may_leave:
            return finding
        return replace(finding, message="Another way of working this out gives another result.")

    def _work_out(self, attempt: Attempt, opinion: SecondOpinion, doubtful: bool) -> None:
        """A control where a model reads and one can be built, otherwise a draft where the policy wants it."""
        reader, source = self._course.source.reader, self._course.source
        if reader is not None and self._reads(doubtful):
            self._course.duty = CONTROL
            try:
                if self._begun is None:
                    opinion.model = reader.profile.name
                    self._control(reader, attempt, opinion)
            except ModelError as error:
                opinion.said = error.said
            if self._ruled is not None or not self._drafts():
                return
        model, self._course.duty = source.second or source.model, DUTY
        opinion.model, opinion.reading = model.profile.name, None
        opinion.understood, opinion.parts, opinion.instead = [], [], []
        self._reading, self._offered = None, []
        self._draft(model, attempt, opinion)

    def _control(self, reader: LanguageModel, attempt: Attempt, opinion: SecondOpinion) -> None:
        read_as = self._course.read_as
        known = json.dumps(read_as.told()) if read_as is not None else None
        messages, read = self._read or (wish(self._course, self._briefing), known)
        if isinstance(read, ModelError):
            raise read
        built = understood(self._course, reader, messages, attempt.number, read)
        if not isinstance(built, Built):
            opinion.said = said_as("second-no-query", why=str(built))
            return
        self._take(built, attempt, opinion)

    def _take(self, built: Built, attempt: Attempt, opinion: SecondOpinion) -> None:
        """Keeps how the question was understood, and rules on the statement that was built from it."""
        self._reading = built.reading
        opinion.reading = built.reading.told()
        opinion.parts = [
            UnderstoodPart(text=part.text, words=pieces(part.words), assumed=part.assumed)
            for part in understood_as(
                built.reading, self._course.source.notes, self._course.now, self._course.inquiry.language
            )
        ]
        opinion.understood = [part.text for part in opinion.parts]
        offered = instead_of(built.reading, asked(self._course), self._course.catalog, self._course.source.notes)
        if self._course.read_as is not None:
            # No model has read it: it is how the question before was read, changed.
            opinion.model, offered = "", [*self._course.beside, *offered]
        self._offered = offered
        language = self._course.inquiry.language
        opinion.instead = [
            Offer(
                id=f"instead-{n}", part=one.part, label=in_language(one.label, language), question=one.question,
                lasting=one.lasting,
            )
            for n, one in enumerate(offered, 1)
        ]  # fmt: skip
        self._let(attempt, opinion, built.sql)

    def _draft(self, model: LanguageModel, attempt: Attempt, opinion: SecondOpinion) -> None:
        course = self._course
        # An example that misleads would lead both ways to the same wrong rows.
        briefing = replace(self._briefing(), examples=())
        messages = compose(
            asked(course), briefing, course.now, course.inquiry.asked_by, True, course.source.prompts
        )  # fmt: skip
        said = take_apart(course.ask(model, messages, attempt.number), course.cut)
        if not isinstance(said, SqlReply):
            opinion.said = said_as("second-no-draft")
            return
        version = course.source.prompts.version("draft")
        opinion.draft = Draft(sql=said.sql, explanation=said.explanation, model=course.by, template=version)
        self._let(attempt, opinion, said.sql)

    def _let(self, attempt: Attempt, opinion: SecondOpinion, sql: DraftedStatement) -> None:
        """Rules on the second way's statement, like on any other: for whoever asks, by the policy."""
        course = self._course
        ruled = course.rule(sql)
        course.ruled(attempt, ruled.ruling, {"draft": sql})
        if ruled.statement is None or ruled.tree is None:
            what = "draft" if opinion.draft is not None else "way"
            opinion.said = said_as("second-may-not", what=what, reason=ruled.ruling.reason)
            return
        opinion.rewritten_sql = ruled.statement.sql
        opinion.read_back = read_back(course.read(ruled.tree), course.source.notes, language(course))
        opinion.findings = [f for f in doubt_draft(course, ruled).findings if f.severity != "info"]
        course.found(attempt, opinion.findings, on="draft")
        self._ruled = ruled

    def _compare(
        self, first: Result, ruled: TextRuling, second: TextRuling, attempt: Attempt, opinion: SecondOpinion
    ) -> None:
        course = self._course
        assert second.statement is not None
        if ruled.statement is not None and second.statement.sql == ruled.statement.sql:
            self._same, self._result = agreement(first, first), self._result or first
            opinion.agrees, opinion.said = True, said_as("second-same-statement")
            return
        if self._result is None:
            try:
                found = self._ran(attempt, second)
            except SandboxError as error:
                opinion.said = stumbled(course, attempt, error)
                self._ruled = None
                return
            if isinstance(found, Finding):
                opinion.said, self._ruled = found.message, None
                return
            self._result = found
        if first.cut_by is not None or self._result.cut_by is not None:
            opinion.said = said_as("second-cut")
            return
        converted = in_its_units(course, first, ruled, second)
        other, reading = self._result, self._reading
        self._same = alike(course, converted, ruled, other, second, reading)
        moved = on_the_other_side(course, reading, other) if self._same is None and reading is not None else iter(())
        for reading, other in moved:
            self._same = alike(course, converted, ruled, other, second, reading)
            if self._same is not None:
                break
        if self._same is None:
            opinion.agrees, opinion.said = False, difference(first, self._result)
            why = self._why(converted, ruled, self._result, second)
            opinion.said = said_as("and-why", said=opinion.said, why=why) if why else opinion.said
            opinion.table = table_of(course, second, self._result)
            return
        if not in_order(course, converted, ruled, other, second, reading):
            opinion.agrees, opinion.said, self._same = False, said_as("differs-order"), None
            opinion.table = table_of(course, second, self._result)
            return
        opinion.agrees, opinion.said = True, said_as("same-result")
        if not self._same.whole:
            opinion.said = said_as("same-as-far")

    def _ran(self, attempt: Attempt, second: TextRuling) -> Result | Finding:
        """What came of its run, beside the draft's or by itself. Raises Held, SandboxError."""
        if self._run is not None and self._run.came is not None:
            return result_of(self._run)
        may_go(second.ruling)
        return run_statement(self._course, attempt, second)

    def _why(self, first: Result, ruled: TextRuling, other: Result, second: TextRuling) -> str:
        course = self._course
        assert ruled.tree is not None
        assert second.tree is not None
        with course.clock.phase("review"):
            one, two = (course.read(tree) for tree in (ruled.tree, second.tree))
            look = partial(course.look, planned=True)
            return meant_so(course, self._offered, first, other) or explained(
                one, two, first, other, course.source.notes, look
            )


def _differs(opinion: SecondOpinion) -> Finding:
    built = "caveat-control-differs" if opinion.model else "caveat-changed-differs"
    which = built if opinion.reading is not None else "caveat-draft-differs"
    message = said_as(which, model=opinion.model, said=opinion.said)
    if opinion.findings:
        message = said_as("caveat-doubtful-itself", said=message, doubt=opinion.findings[0].message)
    return Finding(rule=DIFFERS, severity="warning", message=message, hint="Compare what the two look at.")
