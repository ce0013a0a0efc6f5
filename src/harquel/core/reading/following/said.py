"""What is said after an answer, word by word: which of its words a change has accounted for, and which are left."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Final

from harquel.core.language.pack import Pack
from harquel.core.reading.value import Reading

MOST: Final = 16
"""Words of something that is said by changing what was asked before; who says more says a question of its own."""
WORDS: Final = re.compile(r"\w+")


class NoChange(Exception):
    """What is said is no change that could be made without a model."""


@dataclass(frozen=True)
class Word:
    """One of what is said: as it is written, in small letters, and as the calendar has it in English."""

    text: str
    low: str
    known: str
    first: int
    """Where it begins in `Said.known`."""
    span: tuple[int, int]
    """Where it stands in `Said.text`."""


@dataclass
class Said:
    """What is said. `left` are places of words that no change stands for yet, in their order."""

    text: str
    spoken: Pack
    again: frozenset[str] = frozenset()
    """Words of the question before, in small letters, that say what is asked for and may be said once more."""
    before: frozenset[str] = frozenset()
    """All words of the question before, in small letters."""
    named: frozenset[str] = frozenset()
    """Words of its conditions beside their values; they may be said once more with another value."""
    words: list[Word] = field(init=False)
    known: str = field(init=False)
    """The same with the words of the calendar in English."""
    left: list[int] = field(init=False)

    def __post_init__(self) -> None:
        times = self.spoken.times
        if self.spoken.tag:
            # What asks for agreement asks for nothing else.
            self.text = re.sub(rf",\s*{self.spoken.tag}\s*\?+\s*$", "?", self.text, flags=re.IGNORECASE)
        self.known = WORDS.sub(lambda found: times.get(found[0].casefold(), found[0]), self.text)
        both = zip(WORDS.finditer(self.text), WORDS.finditer(self.known), strict=True)
        self.words = [
            Word(one[0], one[0].casefold(), other[0].casefold(), other.start(), one.span()) for one, other in both
        ]
        self.left = list(range(len(self.words)))
        self._take_opener()

    def take(self, places: range) -> None:
        """They are accounted for."""
        self.left = [n for n in self.left if n not in places]

    def _take_opener(self) -> None:
        lows = [word.low for word in self.words]
        first = next((n for n, low in enumerate(lows) if low not in self.spoken.leads), 0)
        for opener in self.spoken.openers:
            if tuple(lows[first : first + len(opener)]) == opener:
                self.take(range(first, first + len(opener)))

    def light(self, place: int) -> bool:
        """Whether a word asks for nothing where something is said after an answer. Less is taken for that than in a
        whole question: who says "which" or "my" after a count asks for something else than a count.
        """
        word, spoken = self.words[place], self.spoken
        if word.text.isupper() and len(word.text) == 1 and word.low not in spoken.between:
            return False
        known = spoken.leads | spoken.between | self.again | self.named
        return word.low in known or (word.low in spoken.light and word.low in self.before)

    def names_a_condition(self) -> bool:
        """Whether it says words of a condition again."""
        plain = self.spoken.leads | self.spoken.between | self.spoken.places | self.again
        return any(word.low in self.named - plain for word in self.words)

    def runs(self) -> list[range]:
        """What is left without light words, as runs of words that stand together."""
        runs: list[range] = []
        for place in self.left:
            if self.light(place):
                continue
            if runs and runs[-1].stop == place:
                runs[-1] = range(runs[-1].start, place + 1)
            else:
                runs.append(range(place, place + 1))
        return runs

    def written(self, places: range) -> str:
        """Some of its words as they are written."""
        return self.text[self.words[places.start].span[0] : self.words[places.stop - 1].span[1]]


@dataclass
class Changing:
    """A question and its reading, while what is said is made of them. Its words stand in the question, each part's."""

    question: str
    reading: Reading
    beside: list[Changing] = field(default_factory=list)
    """How else what was said can be meant."""

    def put(self, old: str, new: str) -> None:
        """New words where old ones stand. Raises NoChange where they stand in several places, or apart."""
        if not old or self.question.count(old) != 1:
            raise NoChange
        self.question = self.question.replace(old, new)

    def add(self, words: str, before: str = " ") -> None:
        """More words at the end of the question."""
        self.question = f"{self.question.rstrip(' ?.!').strip()}{before}{words}?"

    def change(self, **parts: object) -> None:
        """Other parts of the reading."""
        self.reading = self.reading.model_copy(update=parts)
