"""One scan."""

from __future__ import annotations

from harquel.contract import ScanShape
from harquel.service.operations import Call, Nothing, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..shapes import scan_shape
from .finding import scan_of


@operation(
    "scan.read", takes=Nothing, gives=ScanShape, about=SOURCE_EVEN_OFF,
    rule="how far, of how many and what went wrong with steward",
)  # fmt: skip
def read_scan(call: Call[Nothing, LiveSource]) -> ScanShape:
    """How far it is."""
    return scan_shape(scan_of(call), call.caller)
