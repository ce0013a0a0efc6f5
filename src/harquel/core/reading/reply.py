"""A model's reply to the wish for a reading: the reading, or why it is none. A reply is hostile and may be long."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Final

from pydantic import ValidationError

from harquel.core.prompts.reply import object_in, without_thinking
from harquel.core.reading.value import Reading

LONGEST: Final = 20_000
"""Characters of a reading; a longer one is none."""
DEEPEST: Final = 12
"""Brackets within each other."""


@dataclass(frozen=True)
class NoReading:
    """`fault` says for the model and for the trail what is wrong."""

    fault: str


def reading_of(text: str) -> Reading | NoReading:
    """What a reply says. Never raises."""
    if len(text) > LONGEST:
        return NoReading(f"The reply has more than {LONGEST:,} characters.")
    found = object_in(without_thinking(text), frozenset({"rows"}))
    if found is None:
        return NoReading('The reply holds no reading: a JSON object with "rows".')
    if _depth(found) > DEEPEST:
        return NoReading(f"The reading is nested more than {DEEPEST} deep.")
    try:
        return Reading.model_validate_json(json.dumps(found))
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        place = ".".join(str(part) for part in first["loc"])[:200]
        return NoReading(f"{place or 'The reading'}: {first['msg']}"[:400])


def _depth(value: object) -> int:
    deepest, open_ = 0, [(value, 1)]
    while open_:
        one, depth = open_.pop()
        deepest = max(deepest, depth)
        if isinstance(one, dict):
            open_ += [(v, depth + 1) for v in one.values()]
        elif isinstance(one, list):
            open_ += [(v, depth + 1) for v in one]
    return deepest
