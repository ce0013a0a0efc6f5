"""Which models there are."""

from __future__ import annotations

from harquel.contract import ModelLines
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation
from harquel.service.runtime import runtime

from .lines import line_of


@operation("model.list", takes=Nothing, gives=ModelLines, scope="steward", about=NO_SUBJECT)
def list_models(call: Call[Nothing, None]) -> ModelLines:
    """The language models of the configuration: how each is reached, what it does, how it stands."""
    return ModelLines([line_of(name, model, call.caller) for name, model in runtime().duties.models.items()])
