"""The drafts of an inquiry against each other: which is the best, and what one changed of another."""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from dataclasses import dataclass

from harquel.core.domain.findings import STRUCTURAL, Finding, Ruling
from harquel.core.domain.inquiry import Attempt, Change, SecondOpinion
from harquel.core.domain.result import Result
from harquel.core.guard import TextRuling
from harquel.core.prompts import SqlReply
from harquel.core.review.context import ReviewContext

_WEIGHTS = {"error": 10, "warning": 3, "info": 0}


@dataclass(eq=False)
class Candidate:
    """A draft that may run, with what review found about it."""

    attempt: Attempt
    said: SqlReply
    ruled: TextRuling
    ruling: Ruling
    findings: list[Finding]
    context: ReviewContext | None = None
    result: Result | None = None
    """What it gave, once it has run."""
    opinion: SecondOpinion | None = None
    """What another way said of that."""

    @property
    def doubts(self) -> list[Finding]:
        """The findings above info."""
        return [f for f in self.findings if f.severity != "info"]

    @property
    def of_words(self) -> bool:
        """Whether all doubts about it are ones that a second way to the same rows outweighs."""
        return not any(f.rule in STRUCTURAL for f in self.doubts)


def by_weight(findings: Sequence[Finding]) -> list[Finding]:
    """The findings above info, the gravest first."""
    return sorted((f for f in findings if f.severity != "info"), key=lambda f: -_WEIGHTS[f.severity])


def ranked(candidates: Sequence[Candidate]) -> list[Candidate]:
    """The best first: the fewest and mildest findings that not all of them share; of equals the latest.

    What every draft is doubted for says nothing about which of them is right, and is often a false alarm. A later
    draft was made in the knowledge of what the earlier ones were doubted for.
    """
    shared = set.intersection(*({_said(f) for f in c.findings} for c in candidates)) if len(candidates) > 1 else set()

    def weight(candidate: Candidate) -> int:
        return sum(_WEIGHTS[f.severity] for f in candidate.findings if _said(f) not in shared)

    return sorted(candidates, key=lambda c: (weight(c), -c.attempt.number))


def _said(finding: Finding) -> tuple[str, str]:
    return finding.rule, finding.message


def changes(before: str, after: str) -> list[Change]:
    """What a draft takes out of the one before it, and what it adds, clause by clause."""
    old, new = _clauses(before), _clauses(after)
    found = []
    for kind, i, j, k, m in difflib.SequenceMatcher(a=old, b=new, autojunk=False).get_opcodes():
        if kind != "equal":
            found += [Change(kind="removed", text=t) for t in old[i:j]] + [
                Change(kind="added", text=t) for t in new[k:m]
            ]
    return found


def _clauses(sql: str) -> list[str]:
    """A text cut before the words that begin a clause or a condition; layout does not matter."""
    words, found = " ".join(sql.split()).split(" "), [[]]  # type: list[str], list[list[str]]
    for word in words:
        if word.upper() in _STARTS and found[-1]:
            found.append([])
        found[-1].append(word)
    return [" ".join(part) for part in found]


_STARTS = frozenset(
    "SELECT FROM WHERE JOIN LEFT INNER CROSS GROUP ORDER HAVING LIMIT AND OR UNION EXCEPT WITH ON".split()
)

__all__ = ["Candidate", "changes", "ranked"]
