"""The figures of a sentence: each can be told of what it names, of all together, or of what lies between."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from decimal import ROUND_HALF_UP, Decimal
from functools import cached_property
from typing import Final

from harquel.core.answers.worded.facts import Facts, times_in
from harquel.core.answers.worded.sentences import Token, items_of, says
from harquel.core.language.telling import Telling, telling

_NEAR: Final = Decimal("0.03")
"""How near to a half something lies that is called one."""


@dataclass(frozen=True)
class Known:
    """What a text may speak of besides the rows: the question, our own sentence, what columns and units are called."""

    question: str
    ours: str
    names: Sequence[str]
    language: str

    @cached_property
    def times(self) -> frozenset[str]:
        """Times that were asked for, or that we tell, and the months and years in them."""
        found = {time for text in (self.question, self.ours, *self.names) for _, _, time in times_in(text)}
        return frozenset(
            {*found, *(time[:4] for time in found), *(time[4:7] for time in found if len(time) > 5)} - {""}
        )

    @cached_property
    def words(self) -> frozenset[str]:
        """All words of these."""
        return frozenset(re.findall(r"[^\W\d_]+", " ".join((self.question, self.ours, *self.names)).casefold()))

    @cached_property
    def figures(self) -> frozenset[str]:
        """Whole numbers that the question names: so many of something were asked for."""
        counts = telling(self.language).counts
        said = {str(int(counts[word])) for word in re.findall(r"\w+", self.question.casefold()) if word in counts}
        return frozenset({*said, *re.findall(r"(?<![\d.,])\d{1,3}(?![\d.,]\d)", self.question)})


class Untold(Exception):
    """Something in a sentence is not found in the result."""


@dataclass
class Figures:
    """What a sentence says in figures. `named` are the things that it names, `meant` those whose figure it tells."""

    facts: Facts
    known: Known
    named: list[int] = field(default_factory=list)
    meant: list[int] = field(default_factory=list)
    compared: bool = False
    """Whether anything in it is held against something else."""

    @cached_property
    def telling(self) -> Telling:
        """The words of its language."""
        return telling(self.known.language)

    def figures(self, part: Sequence[Token]) -> None:
        """Raises Untold."""
        for at, token in enumerate(part):
            if token.kind == "figure":
                unit = self._unit(part[at + 1 : at + 2])
                if not self._told(token.value, token.decimals, unit, part, at):
                    raise Untold
            elif token.kind == "word" and token.folded in self.telling.counts:
                if not self._told(Decimal(str(self.telling.counts[token.folded])), 0, None, part, at):
                    raise Untold
            elif token.kind == "word" and token.folded in {**self.telling.parts, **self.telling.times}:
                self._part(token.folded, part, at)

    def _unit(self, behind: Sequence[Token]) -> str | None:
        """What a figure is in: %, a unit of the result, None where nothing is said. A unit of none of it is untold."""
        word = behind[0].text if behind and behind[0].kind == "word" else ""
        if word == "%" or word.casefold() in self.telling.percent:
            return "%"
        units = {unit.casefold() for unit in self.facts.units.values() if unit}
        if word.casefold() in units:
            return word.casefold()
        if units - {"%"} and len(word) == 3 and word.isupper():
            raise Untold
        return None

    def _told(self, value: Decimal, decimals: int, unit: str | None, part: Sequence[Token], at: int) -> bool:
        """Whether a figure is one that can be told here: of what the clause names, or else the sentence; or of all."""
        counts = decimals == 0 and unit is None
        if counts and (str(int(value)) in self.known.figures or int(value) in self._counts(part, at)):
            return True
        here = items_of(part)
        figures = [*self._of_named(part, at, here), *self._of_the_other(part, at, here)]
        average = says(part, self.telling.average)
        if average or self._of_all(part, at) or not (here or self.named) or says(part, self.telling.total):
            figures += self.facts.said_of_all(average)
        return any(_same(value, decimals, known) and _fits(unit, of) for known, of in figures)

    def _of_named(self, part: Sequence[Token], at: int, here: list[int]) -> Iterator[tuple[Decimal, str]]:
        """Of what is named: of several each figure that is its own only where it stands nearest."""
        figures = self.facts.said_of(here or self.named, self.compared)
        if len(here) < 2:
            yield from figures
            return
        own = {f for n in here for f in self.facts.own(n)}
        near = {f for n in self._nearest(part, at) for f in self.facts.own(n)}
        yield from (f for f in figures if f not in own or f in near)

    def _of_the_other(self, part: Sequence[Token], at: int, here: list[int]) -> Iterator[tuple[Decimal, str]]:
        """What lies between the one that is named and another, and what is the other's that it is held against."""
        if len(here) == 1 and self.compared:
            for other in (*self.named, *self.meant):
                if other != here[0]:
                    yield from self._between(here[0], other)
        if here and not items_of(part[:at]) and says(part[at:], self.telling.than) and not items_of(part[at : at + 4]):
            yield from self.facts.said_of([n for n in self.meant if n not in here])

    def _of_all(self, part: Sequence[Token], at: int) -> bool:
        """Whether it is told as the number of all: of the 1,000; 25 of the 33."""
        if any(token.folded in self.telling.out_of for token in part[max(0, at - 2) : at]):
            return True
        return at > 1 and part[at - 2].kind == "figure" and part[at - 1].kind == "word"

    def _nearest(self, part: Sequence[Token], at: int) -> list[int]:
        """Of which a figure can be the own one: named right before or behind it; of as many names with as many figures
        behind them all, the one in its place.
        """
        names = [n for n, token in enumerate(part) if token.items]
        figures = [n for n, token in enumerate(part) if token.kind == "figure"]
        if at in figures and names[-1] < figures[0] and len(names) == len(figures):
            return list(part[names[figures.index(at)]].items)
        before, behind = [n for n in names if n < at][-1:], [n for n in names if n > at][:1]
        return [item for n in (*before, *behind) for item in part[n].items]

    def _between(self, one: int, other: int) -> Iterator[tuple[Decimal, str]]:
        alone = {*self.facts.said_of([one]), *self.facts.said_of([other])}
        together = [f for f in self.facts.said_of([one, other]) if f not in alone]
        # Not what they come to together: nobody would know.
        for at, unit in self.facts.units.items():
            both = [self.facts.items[n].figures.get(at) for n in (one, other)]
            if None not in both:
                total = sum((b for b in both if b is not None), Decimal())
                together = [f for f in together if f != (total, unit)]
        yield from together

    def _counts(self, part: Sequence[Token], at: int) -> set[int]:
        """How many things there are, or are named: where it can be so many of them, and no figure of one of them."""
        of_all = any(token.folded in self.telling.out_of for token in part[max(0, at - 2) : at])
        thing = any(token.kind == "word" for token in part[at + 1 : at + 2])
        if items_of(part) and not of_all:
            return set()
        if not thing and not of_all and not says(part, self.telling.most | self.telling.least):
            return set()
        found = {len(self.facts.items)} if self.facts.listed else set()
        return found | ({len(self.named)} if len(self.named) > 1 else set())

    def _part(self, word: str, part: Sequence[Token], at: int) -> None:
        """A half of all, twice as much: nearly so, or more where that is said."""
        if not self.is_part(part, at):
            return
        here = items_of(part) or self.named
        wanted = Decimal(str({**self.telling.parts, **self.telling.times}[word]))
        if word in self.telling.times:
            found = [a / b for a, b in self._pairs(here) if b > 0]
        else:
            found = [value / 100 for value, unit in self.facts.said_of(here) if unit == "%"]
        more = says(part, self.telling.more)
        less = says(part, self.telling.less)
        near = [f for f in found if (f > wanted if more else f < wanted if less else abs(f - wanted) <= _NEAR * wanted)]
        if not near:
            raise Untold

    def is_part(self, part: Sequence[Token], at: int) -> bool:
        """Whether a word is one of a part of something, not of a place or a time: a third, the third, the quarter."""
        if part[at].folded in self.telling.times:
            return True
        if any(token.kind == "time" for token in part[at : at + 3]):
            return False
        before = part[at - 1].folded if at else ""
        return part[at].folded not in self.telling.ranks or before in self.telling.one or before in self.telling.counts

    def _pairs(self, named: Sequence[int]) -> Iterator[tuple[Decimal, Decimal]]:
        for at in self.facts.units:
            own = [self.facts.items[n].figures[at] for n in named if at in self.facts.items[n].figures]
            yield from ((one, other) for one in own for other in own if one is not other)


def _same(said: Decimal, decimals: int, known: Decimal) -> bool:
    return abs(known).quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_UP) == abs(said) and (said >= 0 or known < 0)


def _fits(said: str | None, unit: str) -> bool:
    """Whether a figure may be told so: percents as percents, others in their unit or in none."""
    return (said == "%") == (unit == "%") and (said is None or said == unit.casefold())
