"""The source that somebody means, as far as it exists for them."""

from __future__ import annotations

from typing import Final

from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError, not_found
from harquel.service.operations import Subject
from harquel.service.runtime import runtime

from .live import LiveSource


def source_for(name: str, caller: Caller, disabled_too: bool = False) -> LiveSource:
    """The source named, as far as it is there for this caller. Raises ProblemError."""
    seen = {n: s for n, s in runtime().sources.items() if caller.sees(n)}
    if name not in seen:
        raise not_found("problem-unknown-source", name, ", ".join(sorted(seen)) or "–")
    if not seen[name].enabled and not disabled_too:
        raise ProblemError(409, "source-disabled", "problem-source-disabled", name=name)
    return seen[name]


def _even_off(name: str, caller: Caller) -> LiveSource:
    return source_for(name, caller, disabled_too=True)


SOURCE: Final = Subject("source that is on", "name", source_for, "those of one's token")
SOURCE_EVEN_OFF: Final = Subject("source", "name", _even_off, "those of one's token")
