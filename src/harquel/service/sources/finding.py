"""The source that somebody means, as far as it exists for them."""

from __future__ import annotations

from typing import Final

from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError, not_found
from harquel.service.operations import Subject
from harquel.service.runtime import runtime

from .live import LiveSource


def source_for(name: str | None, caller: Caller, disabled_too: bool = False) -> LiveSource:
    """The source named, or the only one there is for this caller. Raises ProblemError."""
    seen = {n: s for n, s in runtime().sources.items() if caller.sees(n)}
    if name is None:
        usable = {n: s for n, s in seen.items() if s.enabled}
        if len(usable) == 1:
            return next(iter(usable.values()))
        if not usable:
            raise ProblemError(422, "no-source", "problem-no-source")
        names = ", ".join(sorted(usable))
        raise ProblemError(422, "source-missing", "problem-source-missing", names=names)
    if name not in seen:
        raise not_found("problem-unknown-source", name, ", ".join(sorted(seen)) or "–")
    if not seen[name].enabled and not disabled_too:
        raise ProblemError(409, "source-disabled", "problem-source-disabled", name=name)
    return seen[name]


def _even_off(name: str, caller: Caller) -> LiveSource:
    return source_for(name, caller, disabled_too=True)


SOURCE: Final = Subject("source that is on", "name", source_for, "those of one's token")
SOURCE_EVEN_OFF: Final = Subject("source", "name", _even_off, "those of one's token")
