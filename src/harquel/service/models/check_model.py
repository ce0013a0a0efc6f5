"""Whether a model can be used."""

from __future__ import annotations

from typing import Final

from harquel.contract import ModelCheck, events
from harquel.core.errors import ModelError
from harquel.core.llm.check import MESSAGES, Checked, check
from harquel.core.llm.model import cost_of
from harquel.core.llm.over_http import HttpModel
from harquel.core.llm.shared import SharedModel
from harquel.service.access.caller import Caller
from harquel.service.errors import not_found
from harquel.service.ledger.append import append
from harquel.service.masking import masked
from harquel.service.operations import Call, Nothing, Subject, operation
from harquel.service.runtime import runtime

_SHOWN: Final = 200
"""Names of a server's list that are told."""


def _find(name: str, _: Caller) -> tuple[str, SharedModel]:
    models = runtime().duties.models
    if name not in models:
        raise not_found("problem-unknown-model", name, ", ".join(models) or "–")
    return name, models[name]


MODEL: Final = Subject("model", "model", _find, "stewards")


@operation(
    "model.check", takes=Nothing, gives=ModelCheck, scope="steward", about=MODEL, repeat="anew",
    entries=("model-checked",),
)  # fmt: skip
def check_model(call: Call[Nothing, tuple[str, SharedModel]]) -> ModelCheck:
    """Asks a model one short question: whether it replies, how fast, whether it keeps to a shape. It is paid for."""
    name, shared = call.about
    done = _told(name, _checked(shared, call.caller.name))
    if done.reached:
        # Whoever left it alone need not wait.
        shared.breaker.left(object(), True)
    what = events.ModelChecked(model=name, reached=done.reached)
    runtime().writer.do(lambda: append(who=call.caller.name, what=what))
    return done


def _checked(shared: SharedModel, person: str) -> Checked:
    """What came of it; a budget that has no room for it is an end of it like any other."""
    assert isinstance(shared.model, HttpModel)
    try:
        with runtime().meter.account(person, "", "").call("check", shared.profile, MESSAGES) as paid:
            found = check(shared.model)
            if found.completion is not None:
                paid(found.completion)
    except ModelError as error:
        return Checked(None, error, None, None, 0.0)
    return found


def _told(name: str, found: Checked) -> ModelCheck:
    listed = found.listed[:_SHOWN] if found.listed is not None else None
    if found.error is not None:
        problem, hint = masked(found.error.said), masked(found.error.hint)
        return ModelCheck(name=name, reached=False, problem=problem, hint=hint, listed=listed)
    done = found.completion
    assert done is not None
    assert done.by is not None
    writes_ms = found.total_ms - done.first_ms
    cost = cost_of(done.prompt_tokens, done.completion_tokens, done.by)
    return ModelCheck(
        name=name, reached=True, listed=listed, first_ms=done.first_ms, total_ms=found.total_ms,
        tokens_per_s=round(done.completion_tokens / writes_ms * 1000, 1)
        if done.by.stream and done.completion_tokens and writes_ms > 1 else None,
        prompt_tokens=done.prompt_tokens, completion_tokens=done.completion_tokens, shaped=found.shaped,
        cost=f"{cost:.6f}" if done.by.prompt_price or done.by.completion_price else "",
    )  # fmt: skip
