"""Which language a question is in, by its commonest words; enough to choose between the ones we speak."""

from __future__ import annotations

import re

_WORDS = {
    "en": frozenset(
        ("the of in and is are was were which what how many much did do does by per for to on this").split()
    ),
    "de": frozenset(
        ("der die das und ist sind war waren welche wie viele viel im in je pro für aus am den dem").split()
    ),
}


def language_of(text: str) -> str:
    """ "en" or "de"; English when nothing speaks for either."""
    words = re.findall(r"\w+", text.casefold())
    scores = {code: sum(w in known for w in words) for code, known in _WORDS.items()}
    return "de" if scores["de"] > scores["en"] else "en"
