"""How fresh the data of an answer are: by a column that the notes name, else by the file or the replica.

The column is asked as whoever asks may: of rows that are not theirs nothing is told, not even when the last one came.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from typing import Final

from harquel.core.clock import utc_now
from harquel.core.domain.fresh import Fresh
from harquel.core.inquiry.course import Course
from harquel.core.language.say import say
from harquel.core.language.when import moment_named
from harquel.core.reading import NoControl, Reading, control

_AGAIN_S: Final = 60
"""Seconds for which it is taken from the last question that wanted to know."""


def fresh(course: Course, reads: Iterable[str], language: str) -> Fresh | None:
    """Of the tables that a statement reads, the one that is furthest behind; None where nobody can say."""
    notes = course.source.notes
    named = {name: column for name in sorted(reads) if (column := notes.of(name).fresh_by)}
    found = [(at, f"{name}.{column}") for name, column in named.items() if (at := _newest(course, name, column))]
    if found:
        at, column = min(found)
        return _told(course, Fresh(at=at, by="column", of=column), language)
    written = course.source.written()
    return _told(course, Fresh(at=written.at, by=written.by), language) if written is not None else None


def _told(course: Course, known: Fresh, language: str) -> Fresh:
    calendar = course.source.notes.calendar
    at = f"{moment_named(calendar.here(known.at).replace(tzinfo=None), language)} ({calendar.zone})"
    known.said = say(language, f"fresh-{known.by}", at=at)
    return known


def _newest(course: Course, table: str, column: str) -> dt.datetime | None:
    """The newest value of a column, None where there is none or it lies ahead: then it is not when data came."""
    reading = Reading.model_validate(
        {"rows": table, "figures": [{"figure": "maximum", "of": f"{table}.{column}"}], "words": table}
    )
    found = course.now_and_then(("newest", table, column), _AGAIN_S, lambda: _asked(course, reading))
    calendar, now = course.source.notes.calendar, utc_now()
    if found is None:
        return None
    at = calendar.to_utc(found).replace(tzinfo=dt.UTC)
    return at if at <= now + dt.timedelta(days=1) else None


def _asked(course: Course, reading: Reading) -> dt.datetime | None:
    source = course.source
    try:
        rows = course.look(control(reading, course.catalog, source.notes, source.engine, course.now))
        return dt.datetime.fromisoformat(str(rows[0][0])).replace(tzinfo=None) if rows else None
    except (NoControl, ValueError):
        return None
