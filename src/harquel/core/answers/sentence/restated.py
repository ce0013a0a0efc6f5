"""A question after a number, said as a statement: the number in the place of the words that asked for it.

Only where that is a sentence: "How many sailings were cancelled in August 2026?" is, "How many seats does it have?" is
not, for its verb stands elsewhere then.
"""

from __future__ import annotations

import re
from typing import Any, Final

from harquel.core.language import language_of, pack
from harquel.core.language.say import say
from harquel.core.reading import Reading

_LONGEST: Final = 160
_PLAIN: Final = re.compile(r"[^?!:;()\n]+\?")


def restated(question: str, reading: Reading, value: Any, when: str, language: str) -> str | None:
    """The sentence; None where the question cannot be turned into one."""
    figure = reading.figures[0]
    plain = isinstance(value, int) and not isinstance(value, bool) and value >= 0 and value != 1
    counted = figure.figure in ("count", "distinct") and not figure.during and reading.top is None
    text = " ".join(question.split())
    if not plain or not counted or len(text) > _LONGEST or not _PLAIN.fullmatch(text):
        return None
    rest = _after_the_asking(text.rstrip("?").rstrip(), language)
    if rest is None:
        return None
    rest = _dated(rest, reading, when, language)
    if rest is None:
        return None
    number = say(
        language, "restated", count=value, n=f"{value:,}" if language == "en" else f"{value:,}".replace(",", ".")
    )
    return f"{number} {rest}."


def _after_the_asking(text: str, language: str) -> str | None:
    known = pack(language)
    words = text.split()
    asking = 0
    while asking < len(words) and words[asking].casefold() in known.asking:
        asking += 1
    rest = [w.casefold().strip(",") for w in words[asking:]]
    if asking < 2 or len(rest) < 2 or language_of(text) != language or set(rest) & known.turned:
        return None
    return " ".join(words[asking:])


def _dated(rest: str, reading: Reading, when: str, language: str) -> str | None:
    """With the time that was meant in the place of the words for it; None where that cannot be done."""
    if not reading.during:
        return rest
    said = " ".join(reading.during[0].words.split())
    if len(reading.during) != 1 or not said or rest.casefold().count(said.casefold()) != 1 or not when:
        return None
    known = pack(language)
    # What begins otherwise may hold more than a time: "booked in August".
    if said.split()[0].casefold() not in known.light and not said[:1].isdigit():
        return None
    at = rest.casefold().index(said.casefold())
    before, first = rest[:at].split(), when.split()[0]
    if before and before[-1].casefold() == first:
        del before[-1]
    elif before and before[-1].casefold() in known.light | known.empty and said[:1].isdigit():
        return None  # "before 2020": what stands there goes with the time as it was said
    return " ".join([*before, when + rest[at + len(said) :]])
