"""An example with another text or tags, or off and on."""

from __future__ import annotations

from harquel.contract import ExampleChange, ExampleShape, events
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE
from ..live import LiveSource, check_examples
from .bank import example_of, note, one_of


@operation(
    "example.change", takes=ExampleChange, gives=ExampleShape, scope="steward", about=SOURCE, repeat="same",
    entries=("example-changed",),
)  # fmt: skip
def change(call: Call[ExampleChange, LiveSource]) -> ExampleShape:
    """Changes it; checked again."""
    source, request, found = call.about, call.asked, example_of(call)

    def keep() -> None:
        for field in ("question", "sql", "tags"):
            value = getattr(request, field)
            if value is not None:
                setattr(found, field, value)
        if request.off is not None:
            found.state = "off" if request.off else "new"
        found.save()
        note(call.caller, events.ExampleChanged, found)

    runtime().writer.do(keep)
    check_examples(source, runtime().conductors, runtime().writer, (found.pk,))
    return one_of(source, found.pk)
