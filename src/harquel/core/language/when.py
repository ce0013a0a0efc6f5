"""The times of a reading and the buckets of a trend, as people say them."""

from __future__ import annotations

import datetime as dt
import re
from typing import Final

from babel.dates import format_date, get_day_names
from dateutil.relativedelta import relativedelta

from harquel.core.calendar import FISCAL, USUAL, Calendar, fiscal_name
from harquel.core.language.say import say

_TODAY: Final = dt.timedelta(days=1)
_A_MOMENT: Final = dt.timedelta(minutes=1)
_BUCKET: Final = re.compile(r"(\d{4})(?:-(\d\d)(?:-(\d\d))?)?(?:[T ]00:00(?::00(?:\.0+)?)?)?")
_QUARTER: Final = re.compile(r"([1-9]\d{3})-?Q([1-4])")
_FISCAL: Final = re.compile(r"([1-9]\d{3})/\d\d(?:-Q([1-4]))?")
"""A fiscal year by both years that it lies in, or a quarter of it."""
_NAMED_BY: Final = {"year": ("year",), "month": ("year", "month"), "day": ("year", "month", "day")}
"""What a year, month or day in figures is the name of."""
_FORMATS: Final = {"year": "y", "month": "MMMM y", "day": "d MMMM y"}
_GERMAN: Final = {**_FORMATS, "day": "d. MMMM y"}
_UNITS: Final = {"weekday": 7, "hour": 24}
"""How many there are; a reading counts weekdays from 0, Sunday."""
_STEPS: Final = {
    "year": relativedelta(years=1), "quarter": relativedelta(months=3), "month": relativedelta(months=1),
    "week": relativedelta(weeks=1), "day": relativedelta(days=1),
}  # fmt: skip


def named(at: dt.datetime, unit: str, language: str) -> str:
    """A year, month or day by its name."""
    return str(format_date(at.date(), (_GERMAN if language == "de" else _FORMATS)[unit], locale=language))


def instant(text: str) -> dt.datetime | None:
    """An instant of a reading; None for what is none."""
    try:
        return dt.datetime.fromisoformat(text).replace(tzinfo=None)
    except ValueError:
        return None


def period(
    since: str | None, until: str | None, now: dt.datetime, language: str, calendar: Calendar = USUAL
) -> str:  # fmt: skip
    """From an instant up to, not including, another, as it goes into a sentence; empty where nothing can be said."""
    start, end = instant(since or ""), instant(until or "")
    if (since and start is None) or (until and end is None):
        return ""
    now = now.replace(tzinfo=None)
    if start is None:
        return _before(end, now, language) if end is not None else ""
    if end is None:
        at = moment_named(start, language)
        return say(language, "period-since" if start <= now else "period-from", one=at)
    return _between(start, end, now, language, calendar) if start < end else ""


def _ends_now(end: dt.datetime, now: dt.datetime) -> bool:
    """Whether it is the instant that a question is about, or the end of its day."""
    return -_A_MOMENT <= end - now <= _TODAY


def _before(end: dt.datetime, now: dt.datetime, language: str) -> str:
    if _ends_now(end, now):
        return say(language, "period-until-now")
    return say(language, "period-before", one=moment_named(end, language))


def _between(start: dt.datetime, end: dt.datetime, now: dt.datetime, language: str, calendar: Calendar) -> str:
    for unit, step in _steps(calendar):
        if not _begins(start, unit, calendar):
            continue
        after = _after(start, step)
        if after == end:
            whole = _one(start, unit, language, calendar)
            return say(language, "period-so-far", period=whole) if start <= now < end and unit != "day" else whole
        # Up to this very instant: the unit is under way.
        if _ends_now(end, now) and unit != "day" and start <= now < after and end > start + _TODAY:
            return say(language, "period-so-far", period=_one(start, unit, language, calendar))
    if _ends_now(end, now) and now - start > _TODAY:
        return say(language, "period-to-now", one=moment_named(start, language))
    return _several(start, end, language)


def _steps(calendar: Calendar) -> list[tuple[str, relativedelta]]:
    """The units that a period can be, the longest first. With a fiscal year of its own a quarter by its number could be
    one of either year.
    """
    units = list(_STEPS.items())
    if not calendar.months_moved:
        return units
    return [("fiscal year", _STEPS["year"]), *((unit, step) for unit, step in units if unit != "quarter")]


def _after(start: dt.datetime, step: relativedelta) -> dt.datetime:
    """A step on; the end of the calendar where there is nothing behind it."""
    try:
        return start + step
    except (ValueError, OverflowError):
        return dt.datetime.max


def _several(start: dt.datetime, end: dt.datetime, language: str) -> str:
    for unit in ("year", "month", "day"):
        if _begins(start, unit) and _begins(end, unit):
            ends = (named(at, unit, language) for at in (start, end - _STEPS[unit]))
            return say(language, f"period-{unit}s", **dict(zip(("one", "other"), ends, strict=True)))
    return say(language, "period-span", one=moment_named(start, language), other=moment_named(end, language))


def _one(start: dt.datetime, unit: str, language: str, calendar: Calendar) -> str:
    if unit == "fiscal year":
        return say(language, "period-fiscal-year", year=fiscal_name(calendar.moved(start, unit).year))
    if unit == "quarter":
        return say(language, "period-quarter", number=(start.month + 2) // 3, year=str(start.year))
    return say(language, f"period-{unit}", one=named(start, "day" if unit == "week" else unit, language))


def _begins(at: dt.datetime, unit: str, calendar: Calendar = USUAL) -> bool:
    if (at.hour, at.minute, at.second, at.microsecond) != (0, 0, 0, 0):
        return False
    return {
        "day": True, "week": at.weekday() == calendar.first_weekday, "month": at.day == 1,
        "quarter": at.day == 1 and at.month % 3 == 1, "year": (at.month, at.day) == (1, 1),
        "fiscal year": (at.month, at.day) == (calendar.months_moved + 1, 1),
    }[unit]  # fmt: skip


def moment_named(at: dt.datetime, language: str) -> str:
    """An instant by its day and what clocks show."""
    day = named(at, "day", language)
    return day if _begins(at, "day") else f"{day}, {at:%H:%M}"


def bucket(value: object, unit: str, language: str) -> tuple[str, dt.datetime | None]:
    """A group of a trend by its name, and where it begins; a form that we do not know stays as it is.

    A fiscal year begins where it would if it were the calendar year: see `Calendar.moved`.
    """
    if unit in FISCAL:
        return _fiscal(str(value), unit, language)
    if unit in _UNITS and str(value).isdecimal() and int(str(value)) < _UNITS[unit]:
        return _recurring(int(str(value)), unit, language), None
    quarter = _QUARTER.fullmatch(str(value)) if unit == "quarter" else None
    if quarter is not None:
        at = dt.datetime(int(quarter[1]), 3 * int(quarter[2]) - 2, 1)
        return say(language, "quarter", number=int(quarter[2]), year=quarter[1]), at
    return _of_a_calendar(str(value), unit, language)


def _of_a_calendar(value: str, unit: str, language: str) -> tuple[str, dt.datetime | None]:
    """A day, month or year in figures, as the name of a unit that begins there."""
    found = _BUCKET.fullmatch(value)
    if found is None:
        return value, None
    year, month, day = (int(part) if part else None for part in found.groups())
    try:
        at = dt.datetime(year or 1, month or 1, day or 1)
    except ValueError:
        return value, None
    known = "day" if day else "month" if month else "year"
    if unit in _NAMED_BY.get(known, ()):
        return named(at, unit, language), at
    if unit == "week" and day:
        return named(at, "day", language), at
    return value, at if unit == "quarter" and day else None


def _fiscal(value: str, unit: str, language: str) -> tuple[str, dt.datetime | None]:
    found = _FISCAL.fullmatch(value)
    if found is None or (found[2] is not None) != (unit == "fiscal quarter"):
        return value, None
    at = dt.datetime(int(found[1]), 3 * int(found[2] or 1) - 2, 1)
    return named_unit(at, unit, language), at


def _recurring(number: int, unit: str, language: str) -> str:
    """A weekday or an hour of the day."""
    return f"{number:02}:00" if unit == "hour" else str(get_day_names(locale=language)[(number - 1) % 7])


def follows(before: dt.datetime | None, at: dt.datetime | None, unit: str) -> bool:
    """Whether a unit is the one right after another."""
    return before is not None and at == step_on(before, unit)


def under_way(start: dt.datetime | None, unit: str, now: dt.datetime) -> bool:
    """Whether a unit that begins there has not ended; `now` is moved where the unit is one of a fiscal year."""
    return start is not None and start <= now.replace(tzinfo=None) < step_on(start, unit)


def step_on(at: dt.datetime, unit: str) -> dt.datetime:
    """Where the next unit begins."""
    return _after(at, _STEPS[FISCAL.get(unit, unit)])


def named_unit(at: dt.datetime, unit: str, language: str) -> str:
    """A unit that begins there, by its name."""
    if unit == "fiscal year":
        return fiscal_name(at.year)
    if unit in ("quarter", "fiscal quarter"):
        year = str(at.year) if unit == "quarter" else fiscal_name(at.year)
        return say(language, "quarter", number=(at.month + 2) // 3, year=year)
    return named(at, "day" if unit == "week" else unit, language)
