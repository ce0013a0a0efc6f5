"""All examples against the database as it is now."""

from __future__ import annotations

from harquel.contract import Examples
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE
from ..live import LiveSource, check_examples
from .bank import bank_of


@operation("example.check", takes=Nothing, gives=Examples, scope="steward", about=SOURCE, repeat="same")
def check_all(call: Call[Nothing, LiveSource]) -> Examples:
    """Checks each."""
    check_examples(call.about, runtime().conductors, runtime().writer)
    return bank_of(call.about)
