"""A question that a checked example answers is answered from the same columns.

Bad:  the example divides by passenger_capacity, the draft by car_capacity
Good: the draft reads what the example reads
"""

from __future__ import annotations

from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.known import columns_in
from harquel.core.review.rules.rule import rule

CODE = "unlike-example"


@rule(CODE)
def like_example(context: ReviewContext) -> list[Finding]:
    """One finding where an example for the same question reads columns that the draft does not."""
    for sql in context.same_questions:
        wanted = columns_in(sql, context.engine, context.catalog)
        missing = sorted(wanted - context.statement.read)
        if wanted and missing:
            listed = ", ".join(f"{t}.{c}" for t, c in missing)
            message = f"A checked example answers this very question and reads {listed}; the query does not."
            return [context.finding(CODE, "warning", message, "Follow the example.")]
    return []
