"""Whether a question can be meant in several ways that come to different results: only then is it worth asking back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any, Final

from harquel.core.answers.agreement import agree
from harquel.core.domain.result import Result
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.endings import quote
from harquel.core.inquiry.open_point import OpenPoint, Way
from harquel.core.language.say import said_as
from harquel.core.reading import Instead, NoControl, Reading, at_the_edge, control

_MOST_TRIED: Final = 6
_LONGEST: Final = 120
"""Characters of what tells readings apart."""


def meant_otherwise(course: Course, reading: Reading, result: Result) -> OpenPoint | None:
    """What is to be asked back; None where all the ways come to the same, or only one can be worked out.

    `result` is what the control of the reading itself gave. The others are run as small queries of ours, by the rules
    of whoever asks.
    """
    source, different = course.source, list[tuple[Reading, list[list[Any]]]]()
    if result.cut_by is not None:
        return None
    for other in reading.others:
        try:
            sql = control(other, course.catalog, source.notes, source.engine, course.now)
        except NoControl:
            continue
        rows = course.look(sql, planned=True)
        known = [result.rows, *(seen for _, seen in different)]
        if rows is not None and not any(_same(result, seen, rows) for seen in known):
            different.append((other, rows))
    if not different:
        return None
    ways = [(reading, result.rows), *different]
    choices = tuple(
        Way(f"meant-{number}", f"{_named(one)}{_figure(rows)}", _named(one))
        for number, (one, rows) in enumerate(ways, 1)
    )
    return OpenPoint(said_as("meant-differently"), choices)


def on_the_other_side(course: Course, reading: Reading, result: Result) -> Iterator[tuple[Reading, Result]]:
    """What the control gives where what happens at the question's very instant belongs to the other side of it.

    `result` is what the control of the reading as it is gave.
    """
    source = course.source
    for other in at_the_edge(reading, course.now):
        try:
            sql = control(other, course.catalog, source.notes, source.engine, course.now)
        except NoControl:
            continue
        rows = course.look(sql, planned=True)
        if rows:
            yield other, replace(result, rows=rows)


def meant_so(course: Course, offers: Sequence[Instead], first: Result, other: Result) -> str:
    """What to add to a difference: with which of the other meanings of a part the two agree; empty with none.

    Each is worked out as a small query of ours. `other` is what the control of the reading as it is gave.
    """
    source = course.source
    for offer in offers[:_MOST_TRIED]:
        try:
            sql = control(offer.reading, course.catalog, source.notes, source.engine, course.now)
        except NoControl:
            continue
        rows = course.look(sql, planned=True)
        if rows and agree(first, replace(other, rows=rows)):
            return said_as("differs-not-where-meant", label=offer.label)
    return ""


def _same(like: Result, one: list[list[Any]], other: list[list[Any]]) -> bool:
    return agree(replace(like, rows=one), replace(like, rows=other))


def _named(reading: Reading) -> str:
    return " ".join((reading.named or reading.rows).split())[:_LONGEST]


def _figure(rows: list[list[Any]]) -> str:
    """What it comes to, where that is one figure or word."""
    if len(rows) != 1 or len(rows[0]) != 1:
        return ""
    value = rows[0][0]
    if isinstance(value, int | float) and not isinstance(value, bool):
        return f": {value:,}" if isinstance(value, int) else f": {value:,.10g}"
    return f": {quote(str(value))}" if value is not None else ": nothing"
