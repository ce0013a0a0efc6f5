"""The example bank."""

from __future__ import annotations

from harquel.contract import Examples
from harquel.service.operations import Call, Nothing, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from .bank import bank_of


@operation("example.list", takes=Nothing, gives=Examples, scope="steward", about=SOURCE_EVEN_OFF)
def list_examples(call: Call[Nothing, LiveSource]) -> Examples:
    """All pairs with their state."""
    return bank_of(call.about)
