"""A question is about the instant that it was asked for, not about the clock of the database.

Bad:  SELECT COUNT(*) FROM sailing WHERE scheduled_departure >= date('now', '-1 month')
Good: SELECT COUNT(*) FROM sailing WHERE scheduled_departure >= '2026-08-01'
"""

from __future__ import annotations

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.clocks import reads_clock
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule

CODE = "clock"


@rule(CODE)
def clock(context: ReviewContext) -> list[Finding]:
    """One finding for the first look at the clock."""
    for node in context.statement.tree.walk():
        if reads_clock(node):
            now = context.now.strftime("%Y-%m-%d %H:%M:%S")
            message = said_as("caveat-clock", now=now)
            return [context.finding(CODE, "error", message, f"Write '{now}' where you mean now.", node)]
    return []
