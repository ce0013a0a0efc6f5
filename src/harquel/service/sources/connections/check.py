"""The connection check of a source."""

from __future__ import annotations

from dataclasses import asdict

from harquel.contract import CheckShape, CheckStepShape, events
from harquel.service.ledger.append import append
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource


@operation(
    "source.check", takes=Nothing, gives=CheckShape, scope="steward", about=SOURCE_EVEN_OFF, repeat="anew",
    entries=("source-checked",),
)  # fmt: skip
def check(call: Call[Nothing, LiveSource]) -> CheckShape:
    """Goes step by step, up to the first that failed, and says what is wrong and what to do."""
    source = call.about
    steps = list(source.engine.check(source.core.policy))
    verdicts = {s.verdict for s in steps}
    verdict = "failed" if "failed" in verdicts else "warning" if "warning" in verdicts else "well"
    what = events.SourceChecked(source=source.name, verdict=verdict, faults=[s.fault for s in steps if s.fault])
    runtime().writer.do(lambda: append(who=call.caller.name, what=what))
    return CheckShape(
        source=source.name, where=source.engine.where(), verdict=verdict,  # type: ignore[arg-type]
        steps=[CheckStepShape(**asdict(s)) for s in steps],
    )  # fmt: skip
