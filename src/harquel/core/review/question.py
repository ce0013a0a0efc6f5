"""What a question asks for, read without a model: what it names, counts, compares, ranks, groups by and leaves out."""

from __future__ import annotations

import datetime as dt
import re
from dataclasses import dataclass, field
from typing import Final, Literal

from harquel.core.briefing.meanings import Meaning
from harquel.core.briefing.words import fold
from harquel.core.review.periods import Period

Direction = Literal["high", "low"]


@dataclass(frozen=True)
class Word:
    """One word of the question, folded, with its stem and place."""

    text: str
    stem: str
    start: int
    end: int


@dataclass(frozen=True)
class Mention:
    """Words that mean something in the source. `firm`: a whole name, synonym, code or value, not a part of one."""

    first: int
    last: int
    text: str
    meanings: tuple[Meaning, ...]
    firm: bool
    idle: bool = False
    """A word too common to be missed: total, day, status. It matters only where it says what to group by."""


_COUNTED: Final = re.compile(r"\b(?:how many|number of|count of) (?:different |distinct |unique )?")


_VERB: Final = re.compile(r"\b(?:does|do|did|has|have|had)\b")
"""Behind it stands who has or does what is counted."""
_MOST: Final = re.compile(r"\b(?:most|fewest|least) (?!frequent|common|recent)")


@dataclass(frozen=True)
class Number:
    """A number that is no part of a time. `sense` says which side is meant: more, at least, less, at most."""

    value: float
    word: int
    sense: Literal["", "more", "at least", "less", "at most"] = ""


@dataclass(frozen=True)
class Per:
    """One thing that the figures are wanted for each of: a unit of the calendar or something of the source."""

    calendar: str = ""
    mention: Mention | None = None
    text: str = ""


@dataclass
class Question:
    """The reading of one question at one instant."""

    text: str
    now: dt.datetime
    words: list[Word] = field(default_factory=list)
    periods: list[Period] = field(default_factory=list)
    numbers: list[Number] = field(default_factory=list)
    mentions: list[Mention] = field(default_factory=list)
    unknown: list[Word] = field(default_factory=list)
    per: list[Per] = field(default_factory=list)
    superlatives: list[tuple[str, Direction | None]] = field(default_factory=list)
    weekdays: list[int] = field(default_factory=list)
    """0 is Monday."""
    units: list[str] = field(default_factory=list)
    clock_times: list[str] = field(default_factory=list)
    """Times of day, as HH:MM."""
    has: frozenset[str] = frozenset()
    """Of: average, share, total, how many, how much, distinct, not, several, median, keeps empty, order."""
    first_is: str = ""
    """What stands before "first" at the end: worst, best, most frequent, highest, lowest."""

    @property
    def readable(self) -> bool:
        """Whether enough of it is understood to hold a query against it."""
        return len(self.unknown) * 2 <= len(self.words) or len(self.words) < 3

    def beside_time(self, start: int, end: int) -> bool:
        """Whether a stretch of the question stands right before or behind a time, as part of it perhaps."""
        return any(
            (end <= p.first and not self.text[end : p.first].strip(" ,")) or
            (p.last <= start and not self.text[p.last : start].strip(" ,.")) for p in self.periods
        )  # fmt: skip

    @property
    def stems(self) -> frozenset[str]:
        """All stems."""
        return frozenset(w.stem for w in self.words)

    @property
    def top(self) -> int | None:
        """How many of the highest or lowest are wanted, where it says so."""
        if not self.superlatives:
            return None
        return next((int(n.value) for n in self.numbers if not n.sense and 0 < n.value <= 1000), None)

    def means(self, kind: str, table: str, column: str = "") -> bool:
        """Whether something is mentioned that stands for it."""
        return any(
            m.table == table and m.kind == kind and (not column or m.column == column)
            for mention in self.mentions
            for m in mention.meanings
        )

    @property
    def counted(self) -> Mention | None:
        """What "how many" or "number of" is followed by, when that is something of the source."""
        match = _COUNTED.search(fold(self.text)) or _MOST.search(fold(self.text))
        if match is None or self.counted_unit:
            return None
        verb = _VERB.search(fold(self.text), match.end())
        end = min(match.end() + 30, verb.start() if verb is not None else len(self.text))
        return next(
            (m for m in self.mentions
             if m.firm and match.start() <= self.words[m.first].start <= end
             and any(x.kind in ("table", "measure") for x in m.meanings)), None,
        )  # fmt: skip

    @property
    def counted_unit(self) -> str:
        """The unit of the calendar that is counted: on how many days."""
        match = re.search(r"\bhow many (?:different )?(days|weeks|months|hours|years)\b", fold(self.text))
        return match.group(1).removesuffix("s") if match else ""

    @property
    def measures(self) -> frozenset[str]:
        """Names of the measures that are asked for."""
        return frozenset(m.measure for mention in self.mentions for m in mention.meanings if m.kind == "measure")
