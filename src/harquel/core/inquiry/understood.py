"""A question is read, apart from any draft, and a statement of our own is built from the reading.

The reading goes back once with what is wrong with it; what then still cannot be built is said, and does no harm.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Final

from harquel.core.briefing import Briefing
from harquel.core.domain.statements import DraftedStatement
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.doubt import asked
from harquel.core.llm.model import LanguageModel, Message
from harquel.core.prompts import compose_reading, read_again
from harquel.core.reading import NoControl, NoReading, Reading, by_keys, control, grounded, reading_of

_TRIES: Final = 2
_MOST_FAULTS: Final = 6


@dataclass(frozen=True)
class Built:
    """A reading and the statement that we built from it."""

    reading: Reading
    sql: DraftedStatement


def wish(course: Course, briefing: Callable[[], Briefing]) -> list[Message]:
    """What a model is told that is to read the question."""
    # Whose SQL is not seen cannot mislead.
    shown = replace(briefing(), examples=())
    with course.clock.phase("prompt"):
        return compose_reading(
            asked(course), shown, course.now, course.inquiry.asked_by, course.source.prompts
        )  # fmt: skip


def understood(
    course: Course, reader: LanguageModel, messages: list[Message], number: int, reply: str | None = None
) -> Built | str:
    """The statement, or why there is none. Raises ModelError, End.

    `messages` is the wish for a reading, `reply` what the reader has said to it already.
    """
    faults: list[str] = []
    for _ in range(_TRIES):
        reply = course.ask(reader, messages, number) if reply is None else reply
        found = built_from(course, reply)
        if isinstance(found, Built):
            return found
        faults, course.read_as = found[:_MOST_FAULTS], None
        told = read_again(faults, course.source.prompts)
        messages, reply = [*messages, {"role": "assistant", "content": reply}, told], None
    return " ".join(faults)


def built_from(course: Course, reply: str) -> Built | list[str]:
    """The statement from what a reader said, or what is wrong with that."""
    with course.clock.phase("review"):
        reading = reading_of(reply)
        if isinstance(reading, NoReading):
            return [reading.fault]
        faults = grounded(reading, asked(course), course.now, course.source.notes.calendar)
        if faults:
            return faults
        notes = course.source.notes
        reading = by_keys(reading, course.catalog, course.withholds)
        try:
            return Built(reading, control(reading, course.catalog, notes, course.source.engine, course.now))
        except NoControl as fault:
            return [str(fault)]
