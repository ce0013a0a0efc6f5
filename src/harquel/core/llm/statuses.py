"""What a status says that is not 200: whether it passes, how long to wait, what has to be done about the rest."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Mapping
from email.utils import parsedate_to_datetime
from typing import Final

from harquel.core.errors import ModelRefused
from harquel.core.language.say import said_as

from .model import ModelProfile

LONGEST_WAIT_S: Final = 20.0
_SHOWN: Final = 200
_READ: Final = 4_000
"""Characters of a refusal in which is looked for its reason."""
_TOO_LONG: Final = re.compile(
    r"context[ _-]?(?:length|window)|maximum (?:context|prompt|number of tokens)"
    r"|(?:prompt|input|request) is too (?:long|large)|too many (?:input )?tokens"
    r"|exceeds? the (?:maximum|limit|available context)",
    re.IGNORECASE,
)
_USED_UP: Final = re.compile(
    r"insufficient[ _]quota|exceeded your (?:current )?quota|credit balance|billing", re.IGNORECASE
)
_CLIENT: Final = 400


def passes(status: int) -> bool:
    """Whether a status may be gone at the next try."""
    return status in (408, 409, 425, 429) or status >= 500


def refusal(profile: ModelProfile, status: int, words: str) -> ModelRefused | None:
    """What is wrong that no second try mends, and what to do about it; None for what may pass or is not known."""
    said, name = words[:_READ], profile.name
    if status in (401, 403):
        hint = said_as("model-key.hint", called=profile.called or name)
        return ModelRefused(said_as("model-key", name=name, status=str(status)), hint, "key")
    if status == 404:
        hint = said_as("model-unknown.hint", url=profile.base_url, called=profile.called or name)
        return ModelRefused(said_as("model-unknown", name=name, url=profile.base_url), hint, "model")
    if status == 402 or (status == 429 and _USED_UP.search(said)):
        return ModelRefused(said_as("model-used-up", name=name), said_as("model-used-up.hint"), "quota")
    if status == 413 or (_CLIENT <= status < 500 and status != 429 and _TOO_LONG.search(said)):
        return ModelRefused(said_as("model-too-long", name=name), said_as("model-too-long.hint"), "context")
    return None


def asked_to_wait(headers: Mapping[str, str]) -> float | None:
    """Seconds that a server says one should wait, as a number or as a time; at most 20. None where it does not say."""
    said = headers.get("retry-after", "")[:60]
    try:
        after = float(said)
    except ValueError:
        try:
            after = (parsedate_to_datetime(said) - dt.datetime.now(dt.UTC)).total_seconds()
        except (ValueError, TypeError, OverflowError):
            return None
        after = max(after, 0.0)
    return min(after, LONGEST_WAIT_S) if after >= 0 else None
