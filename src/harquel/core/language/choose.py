"""Which language a text is in, by its commonest words; enough to choose between the ones we speak."""

from __future__ import annotations

import re
from typing import Final

from harquel.core.language.english import ENGLISH
from harquel.core.language.german import GERMAN
from harquel.core.language.pack import Pack

_PACKS: Final = {pack.code: pack for pack in (ENGLISH, GERMAN)}


def language_of(text: str) -> str:
    """ "en" or "de"; English when nothing speaks for either."""
    words = re.findall(r"\w+", text.casefold())
    scores = {code: _speaking_for(known, words) for code, known in _PACKS.items()}
    return "de" if scores["de"] > scores["en"] else "en"


def surely(text: str) -> str | None:
    """The language that a text speaks for, None where no word of it speaks for one more than for the others."""
    words = re.findall(r"\w+", text.casefold())
    scores = sorted(((_speaking_for(known, words), code) for code, known in _PACKS.items()), reverse=True)
    return scores[0][1] if scores[0][0] > scores[1][0] else None


def _speaking_for(known: Pack, words: list[str]) -> int:
    """How many words are of a language: its commonest, and those of its calendar."""
    return sum(w in known.commonest or w in known.times for w in words)


def pack(code: str) -> Pack:
    """That of a language, by the code that `language_of` gives."""
    return _PACKS[code]
