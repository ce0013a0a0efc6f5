"""Where one thing is to have both of two values, rows with either of them are not enough.

Bad:  "bookings with both a car and a bicycle": WHERE kind IN ('car', 'bicycle')
Good: WHERE EXISTS (… kind = 'car') AND EXISTS (… kind = 'bicycle')
"""

from __future__ import annotations

import re

from harquel.core.briefing.words import fold
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.known import same_value
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Condition, Level

CODE = "either-for-both"
_BOTH = re.compile(r"\bboth\b(?=.*\band\b)")
_SPAN = 8
"""Words after "both" within which the two stand."""


@rule(CODE)
def both(context: ReviewContext) -> list[Finding]:
    """A finding where the two values that are wanted together are taken one or the other."""
    match = _BOTH.search(fold(context.question.text))
    if match is None:
        return []
    behind = [i for i, w in enumerate(context.question.words) if w.start >= match.end()][:_SPAN]
    wanted: dict[tuple[str, str], set[str]] = {}
    for mention in context.question.mentions:
        if mention.first in behind:
            for m in mention.meanings:
                if m.kind in ("code", "value"):
                    wanted.setdefault((m.table, m.column), set()).add(m.value)
    for key, values in wanted.items():
        told = [c for c in context.statement.conditions if c.ref is not None and c.ref.key == key and not c.negates]
        if len(values) < 2 or not told:
            continue
        apart = {id(c.level) for c in told if _one_of(c, values)}
        places = {c.subject.sql() for c in told if _one_of(c, values) and not c.either}
        if len(apart) > 1 or len(places) > 1 or any(_all_counted(c.level) for c in told):
            continue
        loose = next((c for c in told if c.either or c.op == "in"), None)
        if loose is not None:
            listed = " and ".join(sorted(values))
            message = f"The question wants {listed} together; the query takes what has one of them."
            hint = "Use one EXISTS for each, or group and ask for HAVING COUNT(DISTINCT …) = 2."
            return [context.finding(CODE, "error", message, hint, loose.node)]
    return []


def _one_of(condition: Condition, values: set[str]) -> bool:
    return len(condition.values) == 1 and any(same_value(condition.values[0], v) for v in values)


def _all_counted(level: Level) -> bool:
    """Whether groups are asked to hold as many different values as are wanted, or each of them."""
    return any(c.place == "having" for lv in level.above() for c in lv.conditions)
