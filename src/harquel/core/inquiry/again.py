"""The statement of an earlier answer, run once more and held against what it gave then. No model is asked."""

from __future__ import annotations

from harquel.core.answers.since import since
from harquel.core.domain.findings import Finding
from harquel.core.domain.inquiry import Attempt, Caveat, Draft
from harquel.core.domain.statements import DraftedStatement
from harquel.core.errors import SandboxError
from harquel.core.inquiry import endings
from harquel.core.inquiry.answer import fill_answer, language
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.deliver import deliver
from harquel.core.inquiry.doubt import doubt_result
from harquel.core.inquiry.repair import Candidate
from harquel.core.inquiry.run import may_go, run_statement, stumbled
from harquel.core.prompts import SqlReply


def run_again(course: Course) -> None:
    """Fills the answer: guard, policy, limits and approval hold as they do now, for whoever asks now.

    Trust and caveats are those of then: they are about the statement, which is the same. Where all
    rows are wanted, they go to a file. Raises End, Held.
    """
    inquiry = course.inquiry
    before = inquiry.again
    assert before is not None
    if not inquiry.attempts:
        inquiry.attempts.append(Attempt(number=1, draft=Draft(sql=before.sql, explanation="", model=before.model)))
    attempt = inquiry.attempts[-1]
    if before.whole:
        deliver(course, attempt, before)
        return
    draft = DraftedStatement(before.sql)
    ruled = course.rule(draft)
    ruling = course.released(ruled.ruling)
    course.ruled(attempt, ruling, {"draft": before.sql})
    if ruled.statement is None:
        course.found(attempt, list(ruled.findings))
        raise endings.no_usable_draft(inquiry.attempts)
    attempt.rewritten_sql = ruled.statement.sql
    may_go(ruling)
    said = SqlReply(draft, before.explanation)
    candidate = Candidate(attempt, said, ruled, ruling, [])
    try:
        result = run_statement(course, attempt, ruled)
    except SandboxError as error:
        stumbled(course, attempt, error)
        raise endings.no_usable_draft(inquiry.attempts) from error
    if isinstance(result, Finding):
        raise endings.no_usable_draft(inquiry.attempts)
    candidate.result = result
    found = doubt_result(course, candidate, result)
    course.found(attempt, found)
    fill_answer(course, candidate, found)
    answer = inquiry.answer
    assert answer is not None
    answer.since = since(before, answer.table, language(course))
    if answer.since.same:
        answer.text, answer.remark = before.text, before.remark
    if answer.since.same is not None:
        # The same columns: what was seen in them by the reading holds.
        answer.chart = before.chart or answer.chart
    answer.text = f"{answer.text} {answer.since.said}"
    known = {caveat.rule for caveat in answer.caveats}
    answer.caveats = [*(Caveat(rule=r, message=m) for r, m in before.caveats if r not in known), *answer.caveats]
    inquiry.trust = "caution" if answer.caveats else before.trust
