"""Whether a reading is of this question: its words stand in it, and its times are those that the words say."""

from __future__ import annotations

import datetime as dt

from harquel.core.reading.literals import moment
from harquel.core.reading.paths import NoControl
from harquel.core.reading.value import Reading, Time
from harquel.core.review.periods import periods_in


def grounded(reading: Reading, question: str, now: dt.datetime) -> list[str]:
    """What speaks against it, in sentences for a model; none where nothing does. `now` is the question's instant."""
    plain = _plain(question)
    found = [f'"{words}" does not stand in the question.' for words in reading.quoted() if _plain(words) not in plain]
    for time in reading.times():
        found += _of_time(time, now)
    return found


def _plain(text: str) -> str:
    return " ".join(text.casefold().split())


def _of_time(time: Time, now: dt.datetime) -> list[str]:
    """Computed again by us where the words name one period: both must say the same."""
    named = periods_in(time.words, now) if time.words else []
    if len(named) != 1 or time.since is None or time.until is None:
        return []
    try:
        since, until = (dt.datetime.fromisoformat(moment(end)) for end in (time.since, time.until))
    except NoControl as fault:
        return [str(fault)]
    if since == named[0].start and named[0].at_least <= until <= max(named[0].end, named[0].at_least):
        return []
    meant = f"from {named[0].start:%Y-%m-%d} until {named[0].end:%Y-%m-%d}"
    return [f'"{time.words}" is {meant}, not from {time.since} until {time.until}.']
