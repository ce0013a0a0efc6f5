"""What a model says of a result, held against it: every figure, name, time and comparison is found again, or is struck.

A sentence with one thing in it that is not found goes as a whole; so does one in which nothing could be looked for.
What must hold: a sentence that stays says of no thing a figure, a place or a comparison that the rows do not give.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from harquel.core.answers.worded.facts import Facts, times_in
from harquel.core.answers.worded.figures import Figures, Known, Untold
from harquel.core.answers.worded.sentences import Token, clauses, has, is_figure, items_of, says, sentences, tokens
from harquel.core.language import pack, surely

LONGEST: Final = 600
"""Characters of a text that is looked at; what is longer is not what was asked for."""
_MOST: Final = 3
"""Sentences that are kept."""
_MARKUP: Final = re.compile(r"[<>{}\[\]`*#|\\]|https?:|://|www\.|\n")
_KIN: Final = 4
"""Letters by which two words are forms of one."""


@dataclass(frozen=True)
class Checked:
    """What of a text stands, in its words, and what was struck."""

    text: str
    struck: tuple[str, ...] = ()


def checked(text: str, facts: Facts, known: Known) -> Checked:
    """The sentences that stand. None of a text that is too long, or in another language, does."""
    text = " ".join(text.split(" ")).strip()
    said = sentences(text)
    if len(text) > LONGEST or surely(text) not in (None, known.language):
        return Checked("", tuple(said))
    kept: list[str] = []
    struck: list[str] = []
    for sentence in said:
        stands = sentence in known.ours or (not _MARKUP.search(sentence) and _Sentence(sentence, facts, known).stands())
        (kept if stands and len(kept) < _MOST else struck).append(sentence)
    return Checked(" ".join(kept), tuple(struck))


def stands_alone(text: str, facts: Facts, known: Known) -> bool:
    """Whether it names the time that our sentence names, so that it says of when it is wherever it is read."""
    of_rows = {time for item in facts.items for time in item.times}
    wanted = {time for _, _, time in times_in(known.ours)} - of_rows
    return not wanted or bool(wanted & {time for _, _, time in times_in(text)})


class _Sentence(Figures):
    def __init__(self, text: str, facts: Facts, known: Known) -> None:
        super().__init__(facts, known)
        self.text = text
        self.parts = clauses(tokens(self.text, self.facts, self.known.language), self.telling)
        self.named = list(dict.fromkeys(n for part in self.parts for n in items_of(part)))
        if not self.named and len(self.facts.items) == 1:
            self.named = [0]
        held = self.telling
        apart = held.more | held.less | held.rose | held.fell | held.in_front | held.in_back
        apart |= held.more_behind | held.less_behind
        self.compared = any(says(part, apart) for part in self.parts)
        told = {token.value for part in self.parts for token in part if token.kind == "figure"}
        # One that is spoken of by its figure alone.
        self.meant = [n for n, item in enumerate(self.facts.items) if told & set(item.figures.values())]

    def stands(self) -> bool:
        """Whether all that it says is found."""
        if not any(token.kind in ("name", "time", "figure") for part in self.parts for token in part) and not any(
            token.folded in self.telling.counts for part in self.parts for token in part
        ):
            return False
        try:
            self._names()
            for n, part in enumerate(self.parts):
                self._claims_nothing_beyond(part)
                self._times(part)
                self.figures(part)
                self._places(part)
                self._follows(part, self.parts[:n])
                self._relates(part)
                self._compares(part, self.parts[:n])
        except Untold:
            return False
        return True

    # -- names and times -------------------------------------------------------------------------

    def _names(self) -> None:
        """A word that is written like a name is one of the result, or a word of the question or of ours."""
        first = True
        flat = [token for part in self.parts for token in part]
        for at, token in enumerate(flat):
            if token.kind == "word" and token.text[:1].isupper():
                joined = at + 1 < len(flat) and flat[at + 1].folded in self.telling.both
                if not (first and not joined) and not self._is_known(token.folded):
                    raise Untold
            first = False

    def _is_known(self, word: str) -> bool:
        language = pack(self.known.language)
        if word in self.known.words | language.light | language.denials | self.telling.nouns or word == "i":
            return True
        if word in self.telling.parts or word in self.telling.counts:
            return True
        return any(_kin(word, other) for other in self.known.words)

    def _claims_nothing_beyond(self, part: Sequence[Token]) -> None:
        """No reason, no future, no advice; nothing denied that our sentence does not deny."""
        denials = pack(self.known.language).denials - self.known.words
        beyond = self.telling.beyond | denials | (self.telling.rates - self.known.words)
        alone = [at for at in has(part, self.telling.alone) if not is_figure(part[at + 1 : at + 2])]
        if says(part, beyond) or alone:
            raise Untold

    def _times(self, part: Sequence[Token]) -> None:
        for token in part:
            if token.kind == "time" and not token.items and token.text not in self.known.times:
                raise Untold

    # -- places and comparisons ------------------------------------------------------------------

    def _places(self, part: Sequence[Token]) -> None:
        """The most, the least, the second: of what is named nearest."""
        here = items_of(part) or self.named
        for wanted, highest in ((self.telling.most, True), (self.telling.least, False)):
            if any(at not in self._idle(part) for at in has(part, wanted)) and not self._is_end(here, highest):
                raise Untold
        for at in has(part, self.telling.last):
            timed = any(t.kind == "time" or t.folded in self.telling.units for t in part[at + 1 : at + 2])
            if not timed and not (self._is_end(here, False) or len(self.facts.items) - 1 in here):
                raise Untold
        for at, token in enumerate(part):
            place = self.telling.ranks.get(token.folded) if token.kind == "word" else None
            behind = part[at + 1] if at + 1 < len(part) else None
            timed = behind is not None and (behind.kind in ("time", "figure") or behind.folded in self.telling.units)
            if place is None or timed or (token.folded in self.telling.parts and self.is_part(part, at)):
                continue
            if not any(int(place) in self.facts.rank(n) for n in here):
                raise Untold

    def _follows(self, part: Sequence[Token], before: Sequence[Sequence[Token]]) -> None:
        """What is said to follow comes right behind what was named before it."""
        for at in has(part, self.telling.follows):
            ahead = items_of([t for clause in (*before, part[:at]) for t in clause])[-1:]
            behind = items_of(part[at:])[:1]
            if (
                ahead
                and behind
                and not any(b == a + 1 for a in self.facts.rank(ahead[0]) for b in self.facts.rank(behind[0]))
            ):
                raise Untold

    def _relates(self, part: Sequence[Token]) -> None:
        """Two that are named together: as an enumeration, or by a word of which it is known what it claims."""
        names = [n for n, token in enumerate(part) if token.items]
        here = items_of(part)
        if says(part, self.telling.even) and (
            len(here) < 2 or any(self.facts.own(n) != self.facts.own(here[0]) for n in here)
        ):
            raise Untold
        for words, up in ((self.telling.in_front, True), (self.telling.in_back, False)):
            for at in has(part, words):
                before, behind = [n for n in names if n < at], [n for n in names if n > at]
                if before and behind:
                    one, other = part[before[-1]].items[0], part[behind[0]].items[0]
                elif len(behind) > 1:
                    other, one = part[behind[0]].items[0], part[behind[1]].items[0]
                    self._follows([part[behind[0]], *self._then, part[behind[1]]], ())
                else:
                    continue
                if not any(token.kind == "time" for token in (part[n] for n in names)) and (
                    self.facts.above(one, other) is not up
                ):
                    raise Untold
        for one, other in pairwise(names):
            between = part[one + 1 : other]
            joined = any(token.folded in self.telling.both | self.telling.counts.keys() for token in between)
            if not joined and between and not self._has_relation(part):
                raise Untold

    def _has_relation(self, part: Sequence[Token]) -> bool:
        known = self.telling
        apart = known.more | known.less | known.rose | known.fell | known.follows | known.in_front | known.in_back
        return says(part, apart | known.most | known.least | known.even | known.than | known.total)

    @property
    def _then(self) -> list[Token]:
        return [Token("word", next(iter(self.telling.follows)))]

    def _is_end(self, here: Sequence[int], highest: bool) -> bool:
        # Of one thing alone nothing is the most; of several that are named together one is.
        return len(self.facts.items) > 1 and bool(here) and self.facts.is_end(here, highest)

    def _idle(self, part: Sequence[Token]) -> set[int]:
        """Places of what is no claim, with the second of two words."""
        found = set()
        for at in has(part, self.telling.idle):
            others = {entry.split("…")[1] for entry in self.telling.idle if entry.startswith(f"{part[at].folded}…")}
            found |= {at, *(n for n in range(at, len(part)) if part[n].folded in others)}
        return found

    def _compares(self, part: Sequence[Token], before: Sequence[Sequence[Token]]) -> None:
        idle = self._idle(part)
        for wanted, behind, up in (
            (self.telling.more, self.telling.more_behind, True), (self.telling.less, self.telling.less_behind, False),
        ):  # fmt: skip
            places = [at for at in has(part, wanted) if at not in idle]
            places += [at for at in has(part, behind) if _follows_figure(part, at)]
            for at in places:
                if any(token.folded in {**self.telling.parts, **self.telling.times} for token in part):
                    continue  # held against that part
                self._compared(part, at, before, up)
        for wanted, up in ((self.telling.rose, True), (self.telling.fell, False)):
            if any(at not in idle for at in has(part, wanted)):
                self._moved(up)

    def _compared(self, part: Sequence[Token], at: int, before: Sequence[Sequence[Token]], up: bool) -> None:
        """One against another: what stands before it, or before what it is held against, and what stands behind."""
        than = next((n for n in range(at, len(part)) if part[n].folded in self.telling.than), at)
        other = items_of(part[than:])
        one = items_of(part[:at])[-1:] or items_of(part[at:than])[:1]
        if says(part, self.telling.others):
            here = one or items_of([t for clause in before for t in clause])[:1] or self.named[:1]
            if not self._is_end(here, up):
                raise Untold
            return
        if not one:
            # The one whose figure was told.
            told = {t.value for clause in (*before, part[:at]) for t in clause if t.kind == "figure"}
            one = [n for n, i in enumerate(self.facts.items) if n not in other and told & set(i.figures.values())][:1]
            one = one or [n for n in self.named if n not in other][:1]
        if one and other and one[0] != other[0]:
            if self.facts.above(one[0], other[0]) is not up:
                raise Untold
            return
        self._against_a_figure(items_of(part) or one, before, up)

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


def _kin(one: str, other: str) -> bool:
    """Whether two words are forms of one: all but the end of the longer one is the same."""
    short = min(len(one), len(other))
    shared = max(_KIN, short - 2)
    return short >= _KIN and one[:shared] == other[:shared] and abs(len(one) - len(other)) <= _KIN
