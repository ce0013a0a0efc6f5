"""A statement guarded and reviewed; who asked goes into the ledger."""

from __future__ import annotations

from harquel.contract import ReviewRequest, ReviewShape, events
from harquel.service.ledger.append import append
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime

from .finding import SOURCE
from .live import LiveSource


@operation(
    "statement.review", takes=ReviewRequest, gives=ReviewShape, scope="ask", about=SOURCE, repeat="anew",
    entries=("reviewed",), rule="under the policy of whoever asks",
)  # fmt: skip
def review(call: Call[ReviewRequest, LiveSource]) -> ReviewShape:
    """Says what guard and review make of a statement; nothing is run."""
    source = call.about
    found = runtime().conductors.review(call.asked.sql, source.core, source.now(None), call.caller.asker)
    shape = ReviewShape.model_validate(found, from_attributes=True)
    what = events.Reviewed(source=source.name, verdict=shape.verdict, policy_line=shape.rulings[-1].policy_line)
    runtime().writer.do(lambda: append(who=call.caller.name, what=what, texts={"draft": call.asked.sql}))
    return shape
