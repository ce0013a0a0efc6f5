"""Which of several doubtful drafts goes out."""

from __future__ import annotations

from harquel.core.domain.findings import Finding, Ruling
from harquel.core.domain.inquiry import Attempt
from harquel.core.domain.statements import DraftedStatement
from harquel.core.guard import TextRuling
from harquel.core.inquiry.repair import Candidate, ranked
from harquel.core.prompts import SqlReply

RULING = Ruling(on="text", verdict="run", policy_line="statement", reason="")


def candidate(number: int, *findings: tuple[str, str]) -> Candidate:
    made = [Finding(rule=rule, severity=severity, message=rule) for rule, severity in findings]  # type: ignore[arg-type]
    said = SqlReply(DraftedStatement(f"SELECT {number}"), "")
    return Candidate(Attempt(number=number), said, TextRuling(RULING, ()), RULING, made)


def order(*candidates: Candidate) -> list[int]:
    return [c.attempt.number for c in ranked(candidates)]


def test_a_finding_that_every_draft_shares_decides_nothing() -> None:
    first = candidate(1, ("unit", "warning"), ("missing-filter", "error"))
    later = candidate(2, ("unit", "warning"), ("unasked", "warning"))
    assert order(first, later) == [2, 1]
    assert order(candidate(1, ("unit", "error")), candidate(2, ("unit", "error"), ("x", "warning"))) == [1, 2]


def test_of_equals_the_later_one_was_made_knowing_more() -> None:
    assert order(candidate(1, ("a", "warning")), candidate(2, ("b", "warning")), candidate(3, ("c", "error"))) == [
        2,
        1,
        3,
    ]
    assert order(candidate(1, ("a", "warning")), candidate(2, ("a", "warning"))) == [2, 1]


def test_one_alone_is_the_best() -> None:
    assert order(candidate(4, ("a", "error"))) == [4]
