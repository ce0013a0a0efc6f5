"""A scan, begun in the background."""

from __future__ import annotations

import time

from harquel.contract import ScanRequest, ScanShape, events
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..models import StoredScan
from ..shapes import scan_shape

_RECORDED_WITHIN_S = 10.0


@operation(
    "scan.start", takes=ScanRequest, gives=ScanShape, scope="steward", about=SOURCE_EVEN_OFF, repeat="same",
    entries=("scan-started",),
)  # fmt: skip
def start(call: Call[ScanRequest, LiveSource]) -> ScanShape:
    """Starts one in the background, or joins the one under way."""
    source = call.about
    run = source.keeper.scan(call.asked.kind)
    deadline = time.monotonic() + _RECORDED_WITHIN_S
    while (row := source.scans.row_of(run)) is None and time.monotonic() < deadline:
        time.sleep(0.01)
    if row is None:
        raise ProblemError(503, "scan-not-recorded", "problem-scan-not-recorded")
    what = events.ScanStarted(source=source.name, scan=row, kind=run.kind)
    runtime().writer.do(lambda: append(who=call.caller.name, what=what))
    return scan_shape(StoredScan.objects.get(pk=row), call.caller)
