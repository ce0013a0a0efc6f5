"""What a model says of a result, held against it: every figure, name, time and comparison is found again, or is struck.

A sentence with one thing in it that is not found goes as a whole; so does one in which nothing could be looked for.
What must hold: a sentence that stays says of no thing a figure, a place or a comparison that the rows do not give.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from harquel.core.answers.worded.compared import Comparisons
from harquel.core.answers.worded.facts import Facts, times_in
from harquel.core.answers.worded.figures import Known, Untold
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


class _Sentence(Comparisons):
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
                self.places(part)
                self.follows(part, self.parts[:n])
                self.relates(part)
                self.compares(part, self.parts[:n])
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


def _kin(one: str, other: str) -> bool:
    """Whether two words are forms of one: all but the end of the longer one is the same."""
    short = min(len(one), len(other))
    shared = max(_KIN, short - 2)
    return short >= _KIN and one[:shared] == other[:shared] and abs(len(one) - len(other)) <= _KIN
