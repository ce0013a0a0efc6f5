"""The review of a draft: every rule over the statement as read, against the question as read."""

from __future__ import annotations

import logging
from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from sqlglot import exp

from harquel.core.briefing import CatalogIndex
from harquel.core.briefing.words import stems
from harquel.core.domain.examples import Example
from harquel.core.domain.findings import Finding
from harquel.core.review.context import Lookups, ReviewContext
from harquel.core.review.question import Question
from harquel.core.review.rules import OF_STATEMENTS, RULES
from harquel.core.review.statement import Statement
from harquel.core.sql.names import resolve
from harquel.core.sql.tree import limit_places

log = logging.getLogger("harquel.review")
_ON_LIMITS = frozenset({"unasked-limit", "wrong-limit", "limit-without-order"})


@dataclass
class Reviewed:
    """What was found, and the statement as it was read."""

    findings: list[Finding] = field(default_factory=list)
    context: ReviewContext | None = None


def review_draft(
    tree: exp.Expr, question: Question, index: CatalogIndex, examples: Iterable[Example] = (),
    lookups: Lookups | None = None,
) -> Reviewed:  # fmt: skip
    """Findings on a draft that the guard let through; the severest first, each with a hint for the model.

    `lookups` asks the database. Never raises: a rule that stumbles over a statement is itself a
    finding, so that nobody takes silence for consent.
    """
    context = context_of(tree, question, index, examples)
    if lookups is not None:
        context.lookups = lookups
    found = Reviewed(context=context)
    if not question.readable:
        message = "The question is not in a language that is read here: what it asks was not compared with the query."
        found.findings.append(Finding(rule="not-read", severity="warning", message=message))
    for rule in RULES if question.readable else OF_STATEMENTS:
        try:
            found.findings += rule(context)
        except Exception:  # a statement of a shape that a rule does not know
            log.exception("the rule %s stumbled", rule.name)
            message = f"The rule {rule.name.replace('_', '-')} could not read this statement."
            found.findings.append(Finding(rule="not-reviewed", severity="warning", message=message))
    found.findings = _settled([f for f in map(context.policy.review.apply, found.findings) if f is not None])
    return found


def placed(findings: list[Finding], sql: str, engine: str) -> list[Finding]:
    """Findings on a LIMIT with its place in the draft, where there is only one."""
    places = limit_places(sql, engine)
    if len(places) != 1:
        return findings
    start, end = places[0]
    return [replace(f, start=start, end=end) if f.rule in _ON_LIMITS and f.start is None else f for f in findings]


def context_of(
    tree: exp.Expr, question: Question, index: CatalogIndex, examples: Iterable[Example] = ()
) -> ReviewContext:
    """The statement as read, with all that the rules ask."""
    statement = Statement(tree, resolve(tree, index.catalog), index.catalog)
    alike = [e for e in examples if _alike(e.question, question)]
    return ReviewContext(
        question, statement, index.catalog, index.notes, index.policy, index.catalog.engine, index.meanings,
        tuple(e.sql for e in alike), frozenset(w for e in alike for w in stems(e.question)),
        tuple(e.sql for e in alike if set(stems(e.question)) == set(stems(question.text))),
    )  # fmt: skip


def _alike(example: str, question: Question) -> bool:
    """Whether an example asks nearly the same: most of its words are in the question."""
    words = set(stems(example))
    return len(words & question.stems) >= 0.6 * len(words) if words else False


def _settled(findings: list[Finding]) -> list[Finding]:
    """Each thing once, the severest first; what one rule says of a place a milder one need not repeat."""
    order = {"error": 0, "warning": 1, "info": 2}
    seen: set[tuple[str, str]] = set()
    kept = []
    for finding in sorted(findings, key=lambda f: order[f.severity]):
        key = (finding.rule, finding.message)
        if key not in seen:
            seen.add(key)
            kept.append(finding)
    return kept
