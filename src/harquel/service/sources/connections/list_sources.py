"""All sources."""

from __future__ import annotations

from harquel.contract import SourceLines
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation
from harquel.service.runtime import runtime

from ..shapes import source_shape


@operation(
    "source.list", takes=Nothing, gives=SourceLines, about=NO_SUBJECT,
    rule="those of one's token; where they are and why they cannot be reached with steward",
)  # fmt: skip
def list_sources(call: Call[Nothing, None]) -> SourceLines:
    """Those that the token may ask."""
    seen = [s for n, s in sorted(runtime().sources.items()) if call.caller.sees(n)]
    return SourceLines([source_shape(s, call.caller) for s in seen])
