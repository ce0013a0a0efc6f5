"""How a text refers to an answer: `[=name]` is its one figure, `[=name: column]` that column of its one row, `[=name:
column | key]` that of the row with the key, `[=name: #]` how many rows there are. Alone in a paragraph, `[=name]` is
the whole answer, `[=name: chart]` its picture.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Container
from dataclasses import dataclass
from typing import Final, Literal, get_args

from harquel.core.language import language_of, pack

MOST_CITED: Final = 300
"""References of one text."""
NAME: Final = r"[a-z0-9][a-z0-9-]{0,39}"
CITED: Final = re.compile(rf"\[=({NAME})(?::([^\[\]|\n]{{1,80}}))?((?:\|[^\[\]|\n]{{1,120}}){{0,3}})\]")
"""A reference: name, column, keys."""
Shows = Literal["answer", "chart", "table"]
_ALL: Final[tuple[Shows, ...]] = get_args(Shows)
_WORD: Final = re.compile(r"[a-z0-9]+")
_WORDS: Final = 3


@dataclass(frozen=True)
class Whole:
    """An answer that stands in a text as a whole, and what of it is shown."""

    name: str
    shows: tuple[Shows, ...]


def whole_in(paragraph: str) -> Whole | None:
    """What a paragraph is, where it is nothing but a reference to a whole answer."""
    found = CITED.fullmatch(paragraph.strip())
    if found is None or found[3]:
        return None
    if found[2] is None:
        return Whole(found[1], _ALL)
    wished = [part.strip() for part in found[2].split(",")]
    if not wished or any(part not in _ALL for part in wished):
        return None
    return Whole(found[1], tuple(part for part in _ALL if part in wished))


def name_for(question: str, taken: Container[str]) -> str:
    """A name for an answer, of the words of its question."""
    text = question[:400].casefold()
    known = pack(language_of(text))
    telling = " ".join(w for w in re.findall(r"\w+", text) if w not in known.light | known.asking) or text
    words = _WORD.findall(unicodedata.normalize("NFKD", telling).encode("ascii", "ignore").decode()) or ["answer"]
    base = "-".join(words[:_WORDS])[:34].strip("-")
    names = (base if n == 1 else f"{base}-{n}" for n in range(1, 10_000))
    return next(name for name in names if name not in taken)
