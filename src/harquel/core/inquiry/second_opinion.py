"""Another draft for the same question, by another model or from another prompt, and its result beside the first one."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from harquel.contract import events
from harquel.core.answers import read_back
from harquel.core.answers.agreement import agree, difference
from harquel.core.briefing import Briefing
from harquel.core.domain.findings import Finding
from harquel.core.domain.inquiry import Attempt, Draft, SecondOpinion
from harquel.core.domain.result import Result
from harquel.core.errors import ModelError, SandboxError, SourceError
from harquel.core.inquiry import endings
from harquel.core.inquiry.answer import language, table_of
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.doubt import asked, doubt_draft
from harquel.core.inquiry.run import may_go, run_statement, stumbled
from harquel.core.prompts import SqlReply, compose, take_apart
from harquel.core.review.statement import statement_of

DUTY: Final = "second opinion"


def wanted(course: Course, doubtful: bool) -> bool:
    """Whether the policy asks for one."""
    terms = course.source.policy.review.second_opinion
    return terms == "always" or (terms == "in-doubt" and doubtful)


def second_opinion(course: Course, briefing: Briefing, first: Result, sql: str, number: int) -> list[Finding]:
    """Asks for it, keeps it with the inquiry, and returns the caveat when the results differ.

    `sql` is the statement that gave the first result. Agreement takes no caveat away. Whatever goes wrong with the
    second draft is recorded and does the first one no harm.
    """
    model = course.source.second or course.source.model
    opinion = course.inquiry.second_opinion = SecondOpinion(model=model.profile.name)
    released, course.released_by, course.duty = course.released_by, "", DUTY
    try:
        _compare(course, briefing, first, sql, Attempt(number=number), opinion)
    except (ModelError, SourceError) as error:
        opinion.said = str(error)
    except endings.End as end:
        opinion.said = end.problem.title
    except endings.Held as held:
        opinion.said = f"Its statement would have to be released: {held.ruling.reason}"
    finally:
        course.released_by, course.duty = released, ""
    compared = events.Compared(number=number, agrees=opinion.agrees, model=opinion.model)
    course.tell(compared, {"said": opinion.said})
    if opinion.agrees is not False:
        return []
    message = f"A second draft, by {opinion.model}, gives another result: {opinion.said}."
    if opinion.findings:
        message += f" It is doubtful itself: {opinion.findings[0].message}"
    return [Finding(rule="second-differs", severity="warning", message=message, hint="Compare what the two look at.")]


def _compare(
    course: Course, briefing: Briefing, first: Result, sql: str, attempt: Attempt, opinion: SecondOpinion
) -> None:
    model = course.source.second or course.source.model
    if model is course.source.model:
        # The same model would only repeat itself: it works without the examples that led it the first time.
        briefing = replace(briefing, examples=())
    messages = compose(asked(course), briefing, course.now, course.inquiry.asked_by, afresh=True)
    said = take_apart(course.ask(model, messages, attempt.number))
    if not isinstance(said, SqlReply):
        opinion.said = "No second draft came about."
        return
    opinion.draft = Draft(sql=said.sql, explanation=said.explanation, model=model.profile.name)
    ruled = course.rule(said.sql)
    course.ruled(attempt, ruled.ruling, {"draft": said.sql})
    if ruled.statement is None or ruled.tree is None:
        opinion.said = f"The second draft may not run: {ruled.ruling.reason}"
        return
    opinion.rewritten_sql = ruled.statement.sql
    opinion.read_back = read_back(statement_of(ruled.tree, course.catalog), course.source.notes, language(course))
    opinion.findings = [f for f in doubt_draft(course, ruled, said.sql).findings if f.severity != "info"]
    course.found(attempt, opinion.findings, on="draft")
    if ruled.statement.sql == sql:
        opinion.agrees, opinion.said = True, "It is the same statement"
        return
    may_go(ruled.ruling)
    try:
        result = run_statement(course, attempt, ruled)
    except SandboxError as error:
        opinion.said = stumbled(course, attempt, error)
        return
    if isinstance(result, Finding):
        opinion.said = result.message
    elif first.cut_by is not None or result.cut_by is not None:
        opinion.said = "A result was cut, so that the two cannot be compared."
    elif agree(first, result):
        opinion.agrees, opinion.said = True, "Another statement with the same result"
    else:
        opinion.agrees, opinion.said = False, difference(first, result)
        opinion.table = table_of(course, ruled, result)
