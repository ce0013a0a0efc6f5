"""What is said after an answer, as a change of how the question before it was understood: no model is needed for it.

Only where each word of it is accounted for, and the question that comes of it passes the same grounding as the reading
of a model would: then what stands alone says all that was changed. Whatever is not certain is left to a model.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass

from harquel.core.briefing.index import CatalogIndex
from harquel.core.language import pack, surely
from harquel.core.language.telling import orders
from harquel.core.reading.following.groups import of_group
from harquel.core.reading.following.how_many import claimed_in, of_number
from harquel.core.reading.following.parts import apart, asks_why, parts_of
from harquel.core.reading.following.said import MOST, WORDS, Changing, NoChange, Said
from harquel.core.reading.following.times import time_said
from harquel.core.reading.following.values import of_number_value, of_value
from harquel.core.reading.ground import grounded
from harquel.core.reading.instead import Instead
from harquel.core.reading.paths import NoControl
from harquel.core.reading.value import Reading

__all__ = ["Changed", "Changing", "apart", "asks_why", "changed", "parts_of"]


@dataclass(frozen=True)
class Changed:
    """The question that stands by itself, and how it is understood."""

    question: str
    reading: Reading
    claimed: tuple[str, ...] = ()
    """Numbers that were said and ask for nothing: what somebody takes for the answer."""
    beside: tuple[Instead, ...] = ()
    """How it could have been meant as well."""


def changed(
    reading: Reading, question: str, said: str, language: str, index: CatalogIndex, now: dt.datetime
) -> Changed | None:
    """The change; None where it takes a model to tell. `index` is what whoever asks may see, `language` that of the
    question before, `now` the instant of this one, as clocks show it where people are.
    """
    again = {w.casefold() for part in (reading, *reading.figures) for w in WORDS.findall(part.words)} - orders(language)
    asked = frozenset(w.casefold() for w in WORDS.findall(question))
    words = Said(said, pack(language), frozenset(again), asked, frozenset(_beside_values(reading)))
    if len(words.words) > MOST or surely(said) not in (None, language) or reading.others or reading.open:
        return None
    changing = Changing(question, reading)
    calendar = index.notes.calendar
    try:
        claimed = _taken(changing, words, index, now)
    except (NoChange, NoControl):
        return None
    if words.runs() or (changing.question == question and not claimed):
        return None
    for one in (changing, *changing.beside):
        _forget_idle(one)
        if grounded(one.reading, one.question, now, calendar):
            return None
    return Changed(changing.question, changing.reading, claimed, tuple(_otherwise(one) for one in changing.beside))


def _taken(changing: Changing, words: Said, index: CatalogIndex, now: dt.datetime) -> tuple[str, ...]:
    """Makes each change that is said; the numbers that are said and ask for nothing. Raises NoChange, NoControl."""
    dated = time_said(changing, words, now, index.notes.calendar)
    of_group(changing, words, index)
    of_number(changing, words)
    before = changing.reading
    of_number_value(changing, words, index)
    claimed = claimed_in(words, changing.reading)
    columns = [of_value(changing, words, run, index) for run in words.runs()]
    if len(set(columns)) < len(columns):
        # Two values of one column are both meant, and one condition holds one.
        raise NoChange
    if words.names_a_condition() and changing.reading is before:
        # Which of its values that one is to have now could not be told.
        raise NoChange
    if dated is not None:
        # Last of all, so that what is offered beside it has every other change, too.
        dated.put(changing)
    return claimed


def _beside_values(reading: Reading) -> Iterator[str]:
    """Words of conditions that are none of their values."""
    for condition in reading.conditions():
        values = {w.casefold() for value in condition.values for w in WORDS.findall(str(value))}
        for word in map(str.casefold, WORDS.findall(condition.words)):
            # Where only a code is known, any of the words may be what it is called.
            if word not in values and values & set(map(str.casefold, WORDS.findall(condition.words))):
                yield word


def _otherwise(other: Changing) -> Instead:
    """Another period, offered for the part of the reading that says which."""
    part = 1 + len(other.reading.only)
    return Instead(part, other.reading.during[0].words, other.question, other.reading)


def _forget_idle(changing: Changing) -> None:
    """Words that ask for nothing may be gone from the question."""
    there = {word.casefold() for word in WORDS.findall(changing.question)}
    kept = tuple(quote for quote in changing.reading.idle if all(w.casefold() in there for w in WORDS.findall(quote)))
    changing.change(idle=kept)
