"""What is doubtful about a draft and about its result, with small queries of ours where they help."""

from __future__ import annotations

from harquel.core.domain.findings import Finding
from harquel.core.domain.result import Result
from harquel.core.guard import TextRuling
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.repair import Candidate
from harquel.core.review import Reviewed, review_draft, review_result
from harquel.core.review.probes import tied, trace_empty
from harquel.core.review.totals import total_differs


def asked(course: Course) -> str:
    """The text that is to be answered: the question without what it wishes of the picture."""
    return course.asked.question


def doubt_draft(course: Course, ruled: TextRuling) -> Reviewed:
    """What is doubtful about a draft that may run, whatever was asked."""
    assert ruled.tree is not None
    with course.clock.phase("review"):
        found = review_draft(ruled.tree, course.index, course.now, course.holds, course.read(ruled.tree))
        found.findings = course.counted(found.findings)
        return found


def doubt_result(course: Course, candidate: Candidate, result: Result) -> list[Finding]:
    """What is doubtful about a result; where something is missing, small queries find out why."""
    context, engine = candidate.context, course.source.engine
    with course.clock.phase("review"):
        found = review_result(result, context)
        missing = next((f for f in found if f.rule in ("result-empty", "result-all-null")), None)
        count = result.rows == [[0]]
        if context is not None and (missing is not None or count):
            traced = trace_empty(context.statement, engine, course.look, count, course.holds)
            if traced is not None:
                found = [traced, *(f for f in found if f is not missing)]
        elif context is not None and result.cut_by is None:
            level = tied(context.statement, engine, course.look)
            total = total_differs(context, course.look)
            found += [f for f in (level, total) if f is not None]
        terms = course.source.policy.review
        return course.counted([f for f in map(terms.apply, found) if f is not None])
