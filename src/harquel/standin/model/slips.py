"""Slips of the hand: a word that nothing knows is the one it is nearest to, where only one is so near."""

from __future__ import annotations

from dataclasses import replace

from rapidfuzz.distance import DamerauLevenshtein

from .adjectives import COMPARED, RANKS
from .english import KNOWN
from .lexicon import Lexicon
from .periods import MONTHS
from .words import EMPTY, Token, number, stem

_SHORTEST = 5
_LONG = 9
"""Letters from which two may be wrong."""


def mended(words: list[Token], lexicon: Lexicon) -> list[Token]:
    """The same words, slips mended; each keeps how it was written."""
    known = lexicon.vocabulary | EMPTY | KNOWN | set(MONTHS) | RANKS.keys() | COMPARED.keys()
    return [_mended(word, known) for word in words]


def _mended(word: Token, known: frozenset[str]) -> Token:
    right = word.low in known or word.stem in known or number(word) is not None or not word.low.isalpha()
    if right or len(word.low) < _SHORTEST:
        return word
    most = 2 if len(word.low) >= _LONG else 1
    near: dict[int, set[str]] = {}
    for other in known:
        for form in (word.low, word.stem):
            apart = DamerauLevenshtein.distance(form, other, score_cutoff=most)
            if apart <= most and len(other) >= _SHORTEST - 1:
                near.setdefault(apart, set()).add(other)
    best = near[min(near)] if near else set()
    return replace(word, low=(low := best.pop()), stem=stem(low)) if len(best) == 1 else word
