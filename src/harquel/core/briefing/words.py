"""Words of questions, names and notes, brought to a form in which they can be compared."""

from __future__ import annotations

import re
import threading
import unicodedata
from functools import lru_cache
from typing import Final

import Stemmer

from harquel.core.language.english import ENGLISH

_STEMMER: Final = Stemmer.Stemmer("english")
_ONE_AT_A_TIME: Final = threading.Lock()
"""The stemmer keeps the word that it works on in itself; two threads at once give nonsense, which would be kept."""
_HUMPS: Final = re.compile(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])|(?<=[A-Za-z])(?=\d)|(?<=\d)(?=[A-Za-z])")
_WORDS: Final = re.compile(r"[^\W_]+")


@lru_cache(maxsize=200_000)
def stem(word: str) -> str:
    """The stem of one folded word."""
    word = ENGLISH.bases.get(word, word)
    if len(word) <= 3:
        return word
    with _ONE_AT_A_TIME:
        return str(_STEMMER.stemWord(word))


@lru_cache(maxsize=200_000)
def fold(text: str) -> str:
    """Small letters, accents taken off."""
    plain = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in plain if not unicodedata.combining(c))


def split(text: str) -> list[str]:
    """Folded words of a text or a name: split at underscores, humps, digits and punctuation."""
    return [fold(word) for word in _WORDS.findall(_HUMPS.sub(" ", text))]


def stems(text: str) -> list[str]:
    """The stems of the words that say something, in order."""
    return [stem(w) for w in split(text) if w not in ENGLISH.empty and (len(w) > 1 or w.isdigit())]


@lru_cache(maxsize=200_000)
def name_stems(name: str) -> tuple[str, ...]:
    """The stems in the name of a table or column."""
    return tuple(stem(w) for w in split(name))
