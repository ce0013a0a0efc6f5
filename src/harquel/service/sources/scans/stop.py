"""A scan, stopped."""

from __future__ import annotations

from harquel.contract import ScanShape, events
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..shapes import scan_shape
from .finding import scan_of


@operation(
    "scan.stop", takes=Nothing, gives=ScanShape, scope="steward", about=SOURCE_EVEN_OFF, repeat="same",
    entries=("scan-stopped",),
)  # fmt: skip
def stop(call: Call[Nothing, LiveSource]) -> ScanShape:
    """Ends it after the current table; the next one goes on from there."""
    found, source = scan_of(call), call.about
    if not source.keeper.stop():
        raise ProblemError(409, "no-scan", "problem-no-scan")
    what = events.ScanStopped(source=source.name, scan=found.pk)
    runtime().writer.do(lambda: append(who=call.caller.name, what=what))
    return scan_shape(found, call.caller)
