"""A call that only asks whether a model can be used: is it there, how fast, does it keep to a shape."""

from __future__ import annotations

import json
import time
from dataclasses import dataclass, replace
from typing import Final

from harquel.core.errors import CoreError, ModelError

from .arriving import NotUnderstood
from .model import Completion, Message, Shape
from .over_http import HttpModel

WITHIN_S: Final = 30.0
_SHAPE: Final[Shape] = {
    "type": "object", "required": ["ready", "counted"], "additionalProperties": False,
    "properties": {"ready": {"type": "boolean"}, "counted": {"type": "string"}},
}  # fmt: skip
MESSAGES: Final[list[Message]] = [
    {
        "role": "system",
        "content": "You are asked whether you can be reached. Reply with one JSON object and nothing else:\n"
        '{"ready": true, "counted": "one, two, three, …"}',
    },
    {"role": "user", "content": "## Check\nCount from one to thirty in words."},
]


@dataclass(frozen=True)
class Checked:
    """What came of it."""

    completion: Completion | None
    error: ModelError | None
    listed: list[str] | None
    """The names that its server gives; None where it gives none."""
    shaped: bool | None
    """Whether it kept to the shape that it was told; None without a reply."""
    total_ms: float


def check(model: HttpModel) -> Checked:
    """Asks once with a shape; where that is turned down, once without. Never raises for what is wrong with a model."""
    listed = _listed(model)
    told = HttpModel(replace(model.profile, structured=True))
    try:
        began = time.monotonic()
        done = _asked(told, _SHAPE)
        if isinstance(done, ModelError) and done.fault == "request":
            began = time.monotonic()
            plain = _asked(model, None)
            total = (time.monotonic() - began) * 1000
            if isinstance(plain, Completion):
                return Checked(plain, None, listed, False, round(total, 1))
            return Checked(None, plain, listed, None, round(total, 1))
        total = round((time.monotonic() - began) * 1000, 1)
        if isinstance(done, Completion):
            return Checked(done, None, listed, _keeps(done.text), total)
        return Checked(None, done, listed, None, total)
    finally:
        told.close()


def _asked(model: HttpModel, shape: Shape | None) -> Completion | ModelError:
    try:
        return model.complete(
            MESSAGES, on_piece=None, stopped=lambda: False, within_s=WITHIN_S, shape=shape, tries=1
        )  # fmt: skip
    except ModelError as error:
        return error


def _listed(model: HttpModel) -> list[str] | None:
    try:
        return model.listed()
    except (CoreError, NotUnderstood):
        return None


def _keeps(text: str) -> bool:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError):
        return False
    return isinstance(found, dict) and found.get("ready") is True and isinstance(found.get("counted"), str)
