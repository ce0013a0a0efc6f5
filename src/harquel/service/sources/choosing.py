"""Which source a question is asked of where none was named: by what each one's catalog and notes know of its words.

Only sources that whoever asks may see, and of them only what they may see.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from harquel.core.briefing.choose import CLEAR, chosen, ranked
from harquel.core.domain.clarify import Choice
from harquel.core.language.say import said_as
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.runtime import runtime

from .live import LiveSource

SOURCE_CHOICE: Final = "source:"
"""With what a choice begins that names a source."""
_OFFERED: Final = 6


@dataclass(frozen=True)
class Picked:
    """The source, why it is that one where several could have been, and what is asked back where nobody can tell."""

    source: LiveSource
    why: str = ""
    between: tuple[Choice, ...] = ()


def pick(question: str, caller: Caller) -> Picked:
    """For a question that names no source. Raises ProblemError where there is none."""
    usable = {n: s for n, s in runtime().sources.items() if s.enabled and caller.sees(n)}
    if not usable:
        raise ProblemError(422, "no-source", "problem-no-source")
    if len(usable) == 1:
        return Picked(next(iter(usable.values())))
    known = {name: (source, source.keeper.known()) for name, source in usable.items()}
    indexes = {
        name: source.core.describer.of(catalog, caller.asker)
        for name, (source, catalog) in known.items() if catalog is not None
    }  # fmt: skip
    order = ranked(question, indexes)
    first = chosen(order)
    if first is not None:
        words = ", ".join(f"“{word}”" for word in first.words)
        return Picked(usable[first.name], said_as("source-because", source=first.name, words=words))
    # Far behind the first is none of them; those of which nothing is known yet could be meant as well.
    near = [one.name for one in order if one.score * CLEAR >= order[0].score]
    names = [*near, *(name for name in sorted(usable) if name not in indexes)]
    between = tuple(
        Choice(id=f"{SOURCE_CHOICE}{name}", label=usable[name].spec.section.title or name) for name in names[:_OFFERED]
    )
    return Picked(usable[names[0]], between=between)
