"""What a sentence holds against something else: more, less, above, below, rose, fell."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from harquel.core.answers.worded.figures import Untold
from harquel.core.answers.worded.places import Places
from harquel.core.answers.worded.sentences import Token, has, is_figure, items_of, says


class Comparisons(Places):
    """On top of the places of things. Every method raises Untold."""

    def compares(self, part: Sequence[Token], before: Sequence[Sequence[Token]]) -> None:
        """Each comparison in a clause, with the clauses before it."""
        for at, up in self._claims(part):
            self._compared(part, at, before, up)
        idle = self.idle(part)
        for wanted, up in ((self.telling.rose, True), (self.telling.fell, False)):
            if any(at not in idle for at in has(part, wanted)):
                self._moved(up)

    def _claims(self, part: Sequence[Token]) -> Iterator[tuple[int, bool]]:
        """Where it is claimed that something is more, or less; what is held against a part of all is held there."""
        if any(token.folded in {**self.telling.parts, **self.telling.times} for token in part):
            return
        idle, known = self.idle(part), self.telling
        for wanted, behind, up in ((known.more, known.more_behind, True), (known.less, known.less_behind, False)):
            yield from ((at, up) for at in has(part, wanted) if at not in idle)
            yield from ((at, up) for at in has(part, behind) if _follows_figure(part, at))

    def _compared(self, part: Sequence[Token], at: int, before: Sequence[Sequence[Token]], up: bool) -> None:
        """One against another: what stands before it, or before what it is held against, and what stands behind."""
        than = next((n for n in range(at, len(part)) if part[n].folded in self.telling.than), at)
        other = items_of(part[than:])
        one = items_of(part[:at])[-1:] or items_of(part[at:than])[:1]
        if says(part, self.telling.others):
            here = one or items_of([t for clause in before for t in clause])[:1] or self.named[:1]
            if not self.is_end(here, up):
                raise Untold
            return
        one = one or self._meant_by_its_figure((*before, part[:at]), other)
        if one and other and one[0] != other[0]:
            if self.facts.above(one[0], other[0]) is not up:
                raise Untold
            return
        self._against_a_figure(items_of(part) or one, before, up)

    def _meant_by_its_figure(self, before: Sequence[Sequence[Token]], other: Sequence[int]) -> list[int]:
        """The one whose figure was told, or that is named elsewhere."""
        told = {t.value for clause in before for t in clause if t.kind == "figure"}
        one = [n for n, i in enumerate(self.facts.items) if n not in other and told & set(i.figures.values())][:1]
        return one or [n for n in self.named if n not in other][:1]

    def _against_a_figure(self, here: Sequence[int], before: Sequence[Sequence[Token]], up: bool) -> None:
        """Against the figure that was told last: an average."""
        told = [t.value for clause in before for t in clause if t.kind == "figure"]
        if not here or not told:
            raise Untold
        for n in here:
            if not any((value > told[-1]) is up for value in self.facts.items[n].figures.values()):
                raise Untold

    def _moved(self, up: bool) -> None:
        """From the first of what is named to the last, in the order of the result."""
        if len(self.named) < 2:
            raise Untold
        first, last = min(self.named), max(self.named)
        if self.facts.above(last, first) is not up:
            raise Untold


def _follows_figure(part: Sequence[Token], at: int) -> bool:
    """Whether a figure stands before it, with its unit between them or none."""
    return is_figure(part[max(0, at - 2) : at])
