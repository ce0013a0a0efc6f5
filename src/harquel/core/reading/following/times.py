"""Another period: "and last year?", "in July", "the month before"."""

from __future__ import annotations

import datetime as dt
import re
from dataclasses import dataclass, replace
from typing import Final

from harquel.core.calendar import Calendar
from harquel.core.language.periods import EARLIEST, LATEST, MONTHS, Period, periods_in, shifted
from harquel.core.language.when import instant, period
from harquel.core.reading.following.said import WORDS, Changing, NoChange, Said
from harquel.core.reading.value import Reading, Time

_OPENS: Final = frozenset({"since", "until", "before", "after"})
_OPEN: Final = ("since ", "before ", "after ")
_A_YEAR: Final = frozenset({"last year", "previous year", "the year before"})
_A_MOMENT: Final = dt.timedelta(microseconds=1)
_UP_TO_NOW: Final = ("this ", "current ")
_YEAR: Final = re.compile(r"(?:19|20)\d\d(?:-\d\d-\d\d.*)?$")
_PART: Final = re.compile(r"\bq[1-4]\b|quarter|half")
"""Parts of a year that lie in it; a winter lies in two."""
_DIGITS: Final = re.compile(r"\d")
_UNITS: Final = frozenset({"day", "week", "month", "quarter", "year"})
_STEPS: Final = ("previous ", "next ")
_HALF_A_YEAR: Final = dt.timedelta(days=184)


@dataclass(frozen=True)
class Dated:
    """A period that is said, to be put in the place of the one that was asked about once all else is changed."""

    old: Time
    named: Time
    likelier: Time | None
    """What is meant rather than the period as it is said."""
    words: str
    """As it is said, where it is under way and so can be named no other way."""
    now: dt.datetime
    calendar: Calendar
    said: Said

    def put(self, changing: Changing) -> None:
        """Raises NoChange where it has no name or no place."""
        if self.likelier is not None:
            other = Changing(changing.question, changing.reading)
            self._put(other, self.named, self._called(self.named))
            changing.beside.append(other)
        time = self.likelier or self.named
        self._put(changing, time, self.words or self._called(time))

    def _called(self, time: Time) -> str:
        """By the calendar alone, so that it says the same whatever stands before it."""
        words = period(time.since, time.until, self.now, self.said.spoken.code, self.calendar)
        if not words:
            raise NoChange
        return words

    def _put(self, changing: Changing, time: Time, words: str) -> None:
        changing.put(_of_the_time(self.old.words, self.now, self.calendar, self.said), words)
        changing.change(during=(time.model_copy(update={"words": words}),))


def time_said(changing: Changing, said: Said, now: dt.datetime, calendar: Calendar) -> Dated | None:
    """Takes the words of a period, where one is said. Raises NoChange where it cannot be told which is meant, and where
    none was asked about: by which time rows are dated nobody has said then.
    """
    now, reading = now.replace(tzinfo=None), changing.reading
    _take_since_then(reading, said)
    named = _named(changing, said, now, calendar)
    if named is None:
        return None
    narrow = [t for t in reading.times() if t not in reading.during]
    if len(reading.during) != 1 or narrow or not reading.during[0].words:
        raise NoChange
    if _dated_otherwise(reading) and _DIGITS.search(named.label):
        raise NoChange
    places = _places(said, named)
    said.take(places)
    old = reading.during[0]
    words = said.written(places) if named.label.startswith(_UP_TO_NOW) else ""
    return Dated(old, _time(named, now, old), _likelier(named, old, now), words, now, calendar, said)


def _take_since_then(reading: Reading, said: Said) -> None:
    """What says the time once more that was asked about, where that has a beginning and no end."""
    lows = [word.low for word in said.words]
    begun = len(reading.during) == 1 and reading.during[0].since is not None and reading.during[0].until is None
    for words in said.spoken.since_then if begun else ():
        for first in range(len(lows) - len(words) + 1):
            if tuple(lows[first : first + len(words)]) == words:
                said.take(range(first, first + len(words)))


def _dated_otherwise(reading: Reading) -> bool:
    """Whether a condition has a year or a date that another one could take the place of."""
    return any(_YEAR.match(str(value)) for condition in reading.conditions() for value in condition.values)


def _named(changing: Changing, said: Said, now: dt.datetime, calendar: Calendar) -> Period | None:
    """The one period that is said; beside the one that was asked about where it is told from that."""
    found = periods_in(said.known, now, calendar)
    old = changing.reading.during[0] if len(changing.reading.during) == 1 else None
    found = found or _bare_month(said, now, calendar)
    if not found and old is not None:
        found = _beside(said, old, now, calendar)
    if len(found) > 1:
        raise NoChange
    return found[0] if found else None


def _bare_month(said: Said, now: dt.datetime, calendar: Calendar) -> list[Period]:
    """A month by its name alone: "and August?"."""
    at = [word for word in said.words if word.known in MONTHS]
    if len(at) != 1:
        return []
    first, last = at[0].first, at[0].first + len(at[0].known)
    return [replace(p, first=first, last=last) for p in periods_in(f"in {at[0].known}", now, calendar)]


def _beside(said: Said, old: Time, now: dt.datetime, calendar: Calendar) -> list[Period]:
    """What is told from the period before it, or from the year of that: "the month before", "the year before", "in the
    first quarter".
    """
    year = _year_of(old)
    whole = f"{year}-01-01 to {year}-12-31" if year is not None else ""
    around = period(old.since, old.until, now, "en", calendar), whole
    for before in filter(None, around):
        moved = len(before) + 2
        beside = periods_in(f"{before}, {said.known}", now, calendar)
        found = [replace(p, first=p.first - moved, last=p.last - moved) for p in beside if p.first >= moved]
        if found:
            return found
    bare = said.known.rstrip(" ?.!")
    dated = periods_in(f"{bare} {year}", now, calendar) if year is not None else []
    return [replace(p, last=len(bare)) for p in dated if p.first < len(bare) < p.last and _PART.search(p.label)]


def _year_of(old: Time) -> int | None:
    """The year in which all of a period lies."""
    since, until = instant(old.since or ""), instant(old.until or "")
    if since is None or until is None or since >= until:
        return None
    return since.year if (until - _A_MOMENT).year == since.year else None


def _in_its_year(named: Period, old: Time, now: dt.datetime) -> Period | None:
    """The same month of the year that was asked about, where its own was not said: after August 2023 July is that of
    2023. None where that is the one anyway.
    """
    year = _year_of(old)
    unsaid = not any(c.isdigit() for c in named.label) and any(month in named.label for month in MONTHS)
    if year is None or not unsaid or year >= named.start.year or named.start.year > now.year:
        return None
    move = year - named.start.year
    start, end = shifted(named.start, "year", move), shifted(named.end, "year", move)
    return replace(named, start=start, end=end, at_least=end)


def _places(said: Said, named: Period) -> range:
    """The words that it is said by; one before it that opens it belongs to it."""
    at = [n for n, word in enumerate(said.words) if named.first <= word.first < named.last]
    first = at[0]
    if named.label.startswith(_OPEN):
        first = next((n for n in range(at[0] - 1, -1, -1) if said.words[n].known in _OPENS), -1)
        if first < 0:
            raise NoChange
    return range(first, at[-1] + 1)


def _likelier(named: Period, old: Time, now: dt.datetime) -> Time | None:
    """What is meant rather than the period as it is said, by the one that was asked about. Raises NoChange."""
    if named.label.startswith(_STEPS):
        return _a_step(named, old)
    if named.label in _A_YEAR:
        return _a_year_before(old, now)
    moved = _in_its_year(named, old, now)
    return _time(moved, now, old) if moved is not None else None


def _a_step(named: Period, old: Time) -> Time:
    """The one before or after that which was asked about. Raises NoChange where that is no such unit."""
    which, unit = named.label.split()[:2]
    since, until = instant(old.since or ""), instant(old.until or "")
    if unit not in _UNITS or since is None or until is None or shifted(since, unit, 1) != until:
        raise NoChange
    move = 1 if which == "next" else -1
    return _from(shifted(since, unit, move), shifted(until, unit, move), old)


def _time(named: Period, now: dt.datetime, old: Time | None) -> Time:
    since = named.start if named.start > EARLIEST else None
    until: dt.datetime | None = named.end if named.end < LATEST else None
    if named.label.startswith(_UP_TO_NOW) and named.start <= now < named.end:
        until = now + dt.timedelta(seconds=1)
    return _from(since, until, old)


def _from(since: dt.datetime | None, until: dt.datetime | None, old: Time | None) -> Time:
    ends = {"from": since, "until": until}
    parts = {name: at.isoformat(" ") for name, at in ends.items() if at is not None}
    if old is not None and old.column is not None:
        parts["column"] = old.column
    return Time.model_validate(parts)


def _a_year_before(old: Time, now: dt.datetime) -> Time | None:
    """The same part of the year before: who asks about August and then about last year means its August. None where all
    of that year is meant; raises NoChange where what is compared is under way.
    """
    since, until = instant(old.since or ""), instant(old.until or "")
    if since is None or until is None or until - since > _HALF_A_YEAR:
        return None
    if until > now and (since.month, since.day) == (1, 1):
        return None
    if until > now:
        raise NoChange
    return _from(shifted(since, "year", -1), shifted(until, "year", -1), old)


def _of_the_time(quote: str, now: dt.datetime, calendar: Calendar, said: Said) -> str:
    """What of a part's words names its period, with the light words before it: "in August 2026" of what was "booked in
    August 2026".
    """
    old = Said(quote, said.spoken)
    found = periods_in(old.known, now, calendar)
    if len(found) != 1:
        return quote
    places = _places(old, found[0])
    first = places.start
    while first > 0 and old.light(first - 1):
        first -= 1
    spans = [match.span() for match in WORDS.finditer(quote)]
    return quote[spans[first][0] : spans[places.stop - 1][1]]
