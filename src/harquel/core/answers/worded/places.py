"""What a sentence says of the places of things: the most, the least, the second, what follows what, what is level."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

from harquel.core.answers.worded.figures import Figures, Untold
from harquel.core.answers.worded.sentences import Token, has, items_of, says


class Places(Figures):
    """On top of what it says in figures. Every method raises Untold."""

    def places(self, part: Sequence[Token]) -> None:
        """The most, the least, the second: of what is named nearest."""
        here, idle = items_of(part) or self.named, self.idle(part)
        for wanted, highest in ((self.telling.most, True), (self.telling.least, False)):
            if any(at not in idle for at in has(part, wanted)) and not self.is_end(here, highest):
                raise Untold
        for at in has(part, self.telling.last):
            if not self._timed(part, at) and not (self.is_end(here, False) or len(self.facts.items) - 1 in here):
                raise Untold
        for place in self._ranks(part):
            if not any(place in self.facts.rank(n) for n in here):
                raise Untold

    def _ranks(self, part: Sequence[Token]) -> Iterator[int]:
        for at, token in enumerate(part):
            if token.kind != "word" or token.folded not in self.telling.ranks or self._timed(part, at):
                continue
            if token.folded not in self.telling.parts or not self.is_part(part, at):
                yield int(self.telling.ranks[token.folded])

    def _timed(self, part: Sequence[Token], at: int) -> bool:
        """Whether it is said of a time, or a number, that stands right behind: the last month, the first 5."""
        behind = part[at + 1 : at + 2]
        return any(t.kind in ("time", "figure") or t.folded in self.telling.units for t in behind)

    def is_end(self, here: Sequence[int], highest: bool) -> bool:
        """Whether these have the highest figures, or the lowest. Of one thing alone nothing is the most."""
        return len(self.facts.items) > 1 and bool(here) and self.facts.is_end(here, highest)

    def follows(self, part: Sequence[Token], before: Sequence[Sequence[Token]]) -> None:
        """What is said to follow comes right behind what was named before it."""
        for at in has(part, self.telling.follows):
            ahead = items_of([t for clause in (*before, part[:at]) for t in clause])[-1:]
            behind = items_of(part[at:])[:1]
            if ahead and behind:
                self._next(ahead[0], behind[0])

    def _next(self, ahead: int, behind: int) -> None:
        if not any(b == a + 1 for a in self.facts.rank(ahead) for b in self.facts.rank(behind)):
            raise Untold

    def relates(self, part: Sequence[Token]) -> None:
        """Two that are named together: as an enumeration, or by a word of which it is known what it claims."""
        names, here = [n for n, token in enumerate(part) if token.items], items_of(part)
        if says(part, self.telling.even) and len({tuple(self.facts.own(n)) for n in here}) != 1:
            raise Untold
        if len(here) < 2:
            if says(part, self.telling.even):
                raise Untold
            return
        for words, up in ((self.telling.in_front, True), (self.telling.in_back, False)):
            for at in has(part, words):
                self._stands(part, names, at, up)
        for one, other in pairwise(names):
            between = part[one + 1 : other]
            joined = any(token.folded in self.telling.both | self.telling.counts.keys() for token in between)
            if not joined and between and not self._has_relation(part):
                raise Untold

    def _stands(self, part: Sequence[Token], names: Sequence[int], at: int, up: bool) -> None:
        """One in front of another, or behind it: with the word between them, or before both."""
        before, behind = [n for n in names if n < at], [n for n in names if n > at]
        if any(part[n].kind == "time" for n in names) or not behind or not (before or behind[1:]):
            return
        one, other = (before[-1], behind[0]) if before else (behind[1], behind[0])
        one, other = part[one].items[0], part[other].items[0]
        if not before:
            self._next(other, one) if not up else self._next(one, other)
        if self.facts.above(one, other) is not up:
            raise Untold

    def _has_relation(self, part: Sequence[Token]) -> bool:
        known = self.telling
        apart = known.more | known.less | known.rose | known.fell | known.follows | known.in_front | known.in_back
        return says(part, apart | known.most | known.least | known.even | known.than | known.total)

    def idle(self, part: Sequence[Token]) -> set[int]:
        """Places of what is no claim, with the second of two words."""
        found = set()
        for at in has(part, self.telling.idle):
            others = {entry.split("…")[1] for entry in self.telling.idle if entry.startswith(f"{part[at].folded}…")}
            found |= {at, *(n for n in range(at, len(part)) if part[n].folded in others)}
        return found
