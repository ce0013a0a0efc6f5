"""The review of a draft: every rule over the statement as read, whatever was asked."""

from __future__ import annotations

import datetime as dt
import logging
from dataclasses import dataclass, field

from sqlglot import exp

from harquel.core.briefing import CatalogIndex
from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import Holds, ReviewContext
from harquel.core.review.rules import RULES
from harquel.core.review.statement import Statement, statement_of

log = logging.getLogger("harquel.review")


@dataclass
class Reviewed:
    """What was found, and the statement as it was read."""

    findings: list[Finding] = field(default_factory=list)
    context: ReviewContext | None = None


def review_draft(
    tree: exp.Expr, index: CatalogIndex, now: dt.datetime, holds: Holds | None = None, read: Statement | None = None
) -> Reviewed:  # fmt: skip
    """Findings on a draft that the guard let through; the severest first, each with a hint for the model.

    `now` is the instant that its question is about; `holds` asks the database; `read` is the tree where it was read
    before. Never raises: a rule that stumbles over a statement is itself a finding, so that nobody takes silence for
    consent.
    """
    context = ReviewContext(read or statement_of(tree, index.catalog), index.notes, index.policy, now)
    if holds is not None:
        context.holds = holds
    found = Reviewed(context=context)
    for rule in RULES:
        try:
            found.findings += rule(context)
        except Exception:  # a statement of a shape that a rule does not know
            log.exception("the rule %s stumbled", rule.name)
            message = said_as("caveat-not-reviewed", rule=rule.name.replace("_", "-"))
            found.findings.append(Finding(rule="not-reviewed", severity="warning", message=message))
    found.findings = _settled([f for f in map(context.policy.review.apply, found.findings) if f is not None])
    return found


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
