"""An example taken out."""

from __future__ import annotations

from harquel.contract import events
from harquel.service.operations import Call, Nothing, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE
from ..live import LiveSource
from .bank import example_of, note


@operation("example.remove", takes=Nothing, scope="steward", about=SOURCE, repeat="same", entries=("example-removed",))
def remove(call: Call[Nothing, LiveSource]) -> None:
    """Takes it out."""
    found = example_of(call)

    def forget() -> None:
        note(call.caller, events.ExampleRemoved, found)
        found.delete()

    runtime().writer.do(forget)
