"""What was drafted again, held against what was answered before."""

from __future__ import annotations

from harquel.core.answers.agreement import agree, difference
from harquel.core.domain.result import Result
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.repair import Candidate
from harquel.core.language.say import in_language, said_as


def compare(course: Course, candidate: Candidate) -> None:
    """Keeps whether both gave the same rows, and what is different; the rows of then are kept once, where they were."""
    redraft, here = course.inquiry.redraft, candidate.result
    if redraft is None or here is None:
        return
    rows, redraft.rows = redraft.rows, None
    if rows is None:
        return
    then = Result(tuple(redraft.columns), tuple(redraft.types), rows, None, 0, 0)
    redraft.same = agree(then, here)
    said = said_as("redraft-same") if redraft.same else difference(then, here)
    redraft.said = in_language(said, course.inquiry.language)
