"""Which of several sources a question is about: by the words of it that each one's catalog and notes know.

A word says as much for a source as it counts there beside the others: one that all of them know says nothing.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from harquel.core.briefing.index import CatalogIndex, phrases
from harquel.core.briefing.words import fold, split, stem, stems
from harquel.core.language import language_of, pack
from harquel.core.language.german import GERMAN

CLEAR: Final = 1.5
"""So many times as much as the second has the first that is chosen without asking."""
_SHARE: Final = 0.4
"""Of the words that say something a source must know so many to be chosen: what it does not know may be another's."""
TIMES: Final = frozenset({fold(word) for pair in GERMAN.times.items() for word in pair})
"""Words of the calendar, in each language: a time is of no source."""
_NAMED: Final = 3
"""Words that are told as the reason."""


@dataclass(frozen=True)
class Ranked:
    """How much of a question is of a source, and the words that say so, the strongest first."""

    name: str
    score: float
    known: float
    """The share of the question's words that it knows, from 0 to 1."""
    words: tuple[str, ...]


def ranked(question: str, indexes: Mapping[str, CatalogIndex]) -> list[Ranked]:
    """The sources, the likeliest first; those of the same score in the order of their names."""
    weights = {name: _weights(question, index) for name, index in indexes.items()}
    found, said = [], len(_saying(question)) or 1
    for name, mine in weights.items():
        shares = {word: w * w / sum(other.get(word, 0.0) for other in weights.values()) for word, w in mine.items()}
        told = sorted(shares, key=lambda word: (-shares[word], word))
        known = len({part for word in mine for part in word.split()}) / said
        found.append(Ranked(name, round(sum(shares.values()), 3), min(1.0, known), tuple(told[:_NAMED])))
    return sorted(found, key=lambda one: (-one.score, one.name))


def chosen(found: list[Ranked]) -> Ranked | None:
    """The one that is clearly meant; None where nobody can tell."""
    if not found or not found[0].score or found[0].known < _SHARE:
        return None
    return found[0] if len(found) < 2 or found[0].score >= CLEAR * found[1].score else None


def _saying(question: str) -> set[str]:
    """The stems of the words that can be of a source: no number, no time, nothing light."""
    light = pack(language_of(question)).light
    words = (w for w in split(question) if not (w.isdigit() or w in light or w in TIMES or stem(w) in TIMES))
    return {stem(w) for w in words} & set(stems(question))


def _weights(question: str, index: CatalogIndex) -> dict[str, float]:
    """Words of a question, as they are written, and how much each counts in a source at its best."""
    found: dict[str, float] = {}
    said = _saying(question)
    words = [w for w in split(question) if not w.isdigit()]
    for word in words:
        root = index.spellings.get(word, stem(word))
        if stem(word) in said:
            best = max((h[0].weight for h in index.hits.get(root, {}).values()), default=0.0)
            if best:
                found[word] = max(best, found.get(word, 0.0))
    written = {stem(w): w for w in words}
    for phrase in dict.fromkeys(phrases([stem(w) for w in words])):
        hits = index.values.get(phrase, ())
        if hits and any(w in said for w in phrase):
            text = " ".join(written[w] for w in phrase)
            found[text] = max(found.get(text, 0.0), *(h.weight for h in hits))
    return found
