"""One source."""

from __future__ import annotations

from harquel.contract import SourceLine
from harquel.service.operations import Call, Nothing, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..shapes import source_shape


@operation(
    "source.read", takes=Nothing, gives=SourceLine, about=SOURCE_EVEN_OFF,
    rule="where it is and why it cannot be reached with steward",
)  # fmt: skip
def read_source(call: Call[Nothing, LiveSource]) -> SourceLine:
    """Its line, with starter questions."""
    return source_shape(call.about, call.caller)
