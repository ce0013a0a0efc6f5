"""A time of day is not bounded by a day: the last day would only count with its first instant.

Bad:  SELECT COUNT(*) FROM booking WHERE booked_at BETWEEN '2026-08-01' AND '2026-08-31'
Good: SELECT COUNT(*) FROM booking WHERE booked_at >= '2026-08-01' AND booked_at < '2026-09-01'
"""

from __future__ import annotations

import datetime as dt
import re
from typing import Final

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.calendar import is_temporal, whole_days
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition

CODE: Final = "last-day-lost"
_DAY: Final = re.compile(r"\d{4}-\d\d-\d\d(?:[ T]00:00(?::00(?:\.0+)?)?)?\Z")


@rule(CODE)
def last_day(context: ReviewContext) -> list[Finding]:
    """One finding for each upper bound that lets in the first instant of a day which ends a month or a week."""
    found = []
    for condition in context.statement.conditions:
        day = _bound(condition)
        # What ends with the first of a month means all before it, give or take an instant.
        if day is None or day.day == 1 or condition.ref is None or not isinstance(condition.subject, exp.Column):
            continue
        if not is_temporal(condition.ref.column) or whole_days(condition.ref.column):
            continue
        after = day + dt.timedelta(days=1)
        message = said_as("caveat-last-day-lost", day=str(day), column=str(condition.ref))
        hint = f"Take what is before '{after}' (<) where all of {day} is meant."
        found.append(context.finding(CODE, "error", message, hint, condition.node))
    return found


def _bound(condition: Condition) -> dt.date | None:
    """The day up to which times are let in, that day's first instant with them."""
    if condition.op not in ("<=", "between") or not condition.values or condition.either:
        return None
    text = condition.values[-1]
    if not isinstance(text, str) or not _DAY.match(text):
        return None
    try:
        return dt.date.fromisoformat(text[:10])
    except ValueError:
        return None
