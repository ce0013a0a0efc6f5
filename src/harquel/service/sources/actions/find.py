"""The source that somebody means, as far as it exists for them."""

from __future__ import annotations

from harquel.service.access.models import Token
from harquel.service.problems import ProblemError, not_found
from harquel.service.runtime import runtime

from ..live import LiveSource


def source_for(name: str | None, token: Token, disabled_too: bool = False) -> LiveSource:
    """The source named, or the only one there is for this token. Raises ProblemError."""
    seen = {n: s for n, s in runtime().sources.items() if token.sees(n)}
    if name is None:
        usable = {n: s for n, s in seen.items() if s.enabled}
        if len(usable) == 1:
            return next(iter(usable.values()))
        if not usable:
            raise ProblemError(
                422, "no-source", "No source is connected.",
                "Add a section [sources.NAME] to harquel.toml, or connect one: harquel source connect.",
            )  # fmt: skip
        names = ", ".join(sorted(usable))
        raise ProblemError(422, "source-missing", "There are several sources; name one.", f"They are: {names}.")
    if name not in seen:
        raise not_found("source", name, f"Known here: {', '.join(sorted(seen)) or 'none'}.")
    if not seen[name].enabled and not disabled_too:
        raise ProblemError(
            409, "source-disabled", f"The source {name} is switched off.", "A steward switches it on again."
        )
    return seen[name]
