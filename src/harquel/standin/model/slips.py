"""Slips of the hand: a word that nothing knows is the one it is nearest to, where only one is so near."""

from __future__ import annotations

from dataclasses import replace

from rapidfuzz.distance import DamerauLevenshtein

from .adjectives import COMPARED, RANKS
from .english import KNOWN
from .lexicon import Lexicon
from .periods import MONTHS
from .words import CHANGES, EMPTY, PAY, PEOPLE, Token, number, stem

_SHORTEST = 5
_ROOT = 4
_LONG = 9
"""Letters from which two may be wrong."""


def mended(words: list[Token], lexicon: Lexicon) -> list[Token]:
    """The same words, slips mended; each keeps how it was written."""
    known = lexicon.vocabulary | EMPTY | KNOWN | set(MONTHS) | RANKS.keys() | COMPARED.keys() | CHANGES | PAY | PEOPLE
    return [_mended(word, known) for word in words]


_ENDINGS = ("en", "er", "e", "n", "s")
_PLAIN = str.maketrans("äöü", "aou")


def _inflected(word: Token, known: frozenset[str]) -> Token | None:
    """A German plural or case of a word that is known, a vowel of it turned or not."""
    plain = {w.translate(_PLAIN): w for w in known}
    forms = (word.low.removesuffix(e) for e in ("", *_ENDINGS) if word.low.endswith(e))
    found = next((plain[f] for form in forms if len(form) >= _ROOT and (f := form.translate(_PLAIN)) in plain), None)
    return replace(word, low=found, stem=found) if found is not None else None


def _mended(word: Token, known: frozenset[str]) -> Token:
    right = word.low in known or word.stem in known or number(word) is not None or not word.low.isalpha()
    if right or len(word.low) < _SHORTEST:
        return word
    inflected = _inflected(word, known)
    if inflected is not None:
        return inflected
    most = 2 if len(word.low) >= _LONG else 1
    near: dict[int, set[str]] = {}
    for other in known:
        for form in (word.low, word.stem):
            apart = DamerauLevenshtein.distance(form, other, score_cutoff=most)
            if apart <= most and len(other) >= _SHORTEST - 1:
                near.setdefault(apart, set()).add(other)
    best = near[min(near)] if near else set()
    return replace(word, low=(low := best.pop()), stem=stem(low)) if len(best) == 1 else word
