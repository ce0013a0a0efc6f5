"""Words of questions, names and notes, brought to a form in which they can be compared."""

from __future__ import annotations

import re
import threading
import unicodedata
from functools import lru_cache
from typing import Final

import Stemmer

_STEMMER: Final = Stemmer.Stemmer("english")
_ONE_AT_A_TIME: Final = threading.Lock()
"""The stemmer keeps the word that it works on in itself; two threads at once give nonsense, which would be kept."""
_HUMPS: Final = re.compile(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])|(?<=[A-Za-z])(?=\d)|(?<=\d)(?=[A-Za-z])")
_WORDS: Final = re.compile(r"[^\W_]+")
EMPTY: Final = frozenset(
    (
        "a an the of in on at by for to from and or is are was were be been has have had do does did how many much "
        "what which who whom whose when where why that this these those with without per each every all any some "
        "than then there it its their our your my me we you they i as not no only show list give tell get find "
        "please can could would should first last most least top bottom more less over under between during since "
        "until before after against compared compare versus vs than us them him her his so if into out up down"
    ).split()
)
"""Words that say nothing about what a question is about."""


_IRREGULAR: Final = {
    form: base
    for base, forms in (
        ("person", "people persons"), ("child", "children"), ("man", "men"), ("woman", "women"), ("foot", "feet"),
        ("sell", "sold"), ("buy", "bought"), ("teach", "taught"), ("send", "sent"), ("hold", "held"),
        ("bring", "brought"), ("catch", "caught"), ("keep", "kept"), ("lose", "lost"), ("meet", "met"),
        ("choose", "chose chosen"), ("break", "broke broken"), ("speak", "spoke spoken"), ("write", "wrote written"),
        ("drive", "drove driven"), ("give", "gave given"), ("grow", "grew grown"), ("know", "knew known"),
        ("fly", "flew flown"), ("begin", "began begun"), ("steal", "stole stolen"), ("spend", "spent"),
        ("lend", "lent"), ("build", "built"), ("birth", "born"), ("win", "won"),
    )
    for form in forms.split()
}  # fmt: skip
"""Forms of common words that no rule of endings brings together."""


@lru_cache(maxsize=200_000)
def stem(word: str) -> str:
    """The stem of one folded word."""
    word = _IRREGULAR.get(word, word)
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
    return [stem(w) for w in split(text) if w not in EMPTY and (len(w) > 1 or w.isdigit())]


@lru_cache(maxsize=200_000)
def name_stems(name: str) -> tuple[str, ...]:
    """The stems in the name of a table or column."""
    return tuple(stem(w) for w in split(name))
