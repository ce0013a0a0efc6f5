"""Finds periods of time in a question, relative ones from the "now" of the prompt."""

from __future__ import annotations

import datetime as dt
import re
from dataclasses import dataclass

from dateutil.relativedelta import relativedelta

from .words import Token, number

MONTHS = ("january february march april may june july august september october november december").split()
_SHORT = {m[:3]: i + 1 for i, m in enumerate(MONTHS)} | {"sept": 9}
_ORDINALS = {"first": 1, "second": 2, "third": 3, "fourth": 4, "1st": 1, "2nd": 2, "3rd": 3, "4th": 4}
_ORDINALS |= {str(number): number for number in range(1, 5)}
"""A bare number is one right before a quarter or a half: a German "2. Quartal"."""
UNITS = ("day", "week", "month", "quarter", "year")


@dataclass(frozen=True)
class Period:
    """From `start` up to `end`, which is included only when `to_now`; either may be open."""

    start: dt.datetime | None
    end: dt.datetime | None
    label: str
    to_now: bool = False


def month_of(token: Token) -> int | None:
    """1 to 12 for the name of a month or its usual short form."""
    if token.low in MONTHS:
        return MONTHS.index(token.low) + 1
    return _SHORT.get(token.low) if token.low != "may" else 5


def span(unit: str, at: dt.datetime) -> tuple[dt.datetime, dt.datetime]:
    """The calendar unit in which an instant lies; weeks begin on Monday."""
    day = dt.datetime(at.year, at.month, at.day)
    if unit == "day":
        return day, day + dt.timedelta(days=1)
    if unit == "week":
        start = day - dt.timedelta(days=day.weekday())
        return start, start + dt.timedelta(days=7)
    months = {"month": 1, "quarter": 3, "year": 12}[unit]
    first = (at.month - 1) // months * months
    start = dt.datetime(at.year, first + 1, 1)
    return start, _plus(start, months)


def _plus(at: dt.datetime, months: int) -> dt.datetime:
    return dt.datetime(at.year, at.month, 1) + relativedelta(months=months)


def this(unit: str, now: dt.datetime) -> Period:
    """The current unit up to now."""
    return Period(span(unit, now)[0], now, f"this {unit}", to_now=True)


def last(unit: str, now: dt.datetime) -> Period:
    """The calendar unit before the current one."""
    start, end = span(unit, span(unit, now)[0] - dt.timedelta(hours=1))
    return Period(start, end, f"last {unit}")


def find_periods(words: list[Token], now: dt.datetime) -> list[tuple[Period, int, int]]:
    """Every period with its place: (period, first token, one past the last), in order."""
    found: list[tuple[Period, int, int]] = []
    at, unit_before = 0, ""
    while at < len(words):
        hit = _absolute(words, at, now) or _relative(words, at, now, unit_before)
        if hit is None:
            at += 1
            continue
        period, end = hit
        open_end = _opened(words, at, period)
        found.append((open_end or period, at - 1 if open_end else at, end))
        for unit in UNITS:
            if any(w.stem == unit for w in words[at:end]):
                unit_before = unit
        at = end
    return found


def _opened(words: list[Token], at: int, period: Period) -> Period | None:
    before = words[at - 1].low if at else ""
    if before == "since":
        return Period(period.start, None, f"since {period.label}")
    if before == "after":
        return Period(period.end, None, f"after {period.label}")
    if before in ("before", "until"):
        return Period(None, period.start if before == "before" else period.end, f"{before} {period.label}")
    return None


def _year(words: list[Token], at: int) -> int | None:
    if at < len(words) and re.fullmatch(r"(19|20)\d\d", words[at].low):
        return int(words[at].low)
    return None


def _absolute(words: list[Token], at: int, now: dt.datetime) -> tuple[Period, int] | None:
    low = words[at].low
    if re.fullmatch(r"\d{4}-\d{2}-\d{2}", low):
        try:
            date = dt.datetime.fromisoformat(low)
        except ValueError:
            return None
        return Period(date, date + dt.timedelta(days=1), low), at + 1
    day_first = number(words[at]) if low.isdigit() else None
    if day_first and day_first <= 31 and at + 1 < len(words) and month_of(words[at + 1]):
        return _day(day_first, month_of(words[at + 1]) or 1, _year(words, at + 2), now, at + 2)
    month = month_of(words[at])
    if month and (low != "may" or _year(words, at + 1)):
        return _of_month(words, at, month, now)
    if re.fullmatch(r"q[1-4]", low):
        year = _year(words, at + 1)
        return _quarter(int(low[1]), year or now.year, at + (2 if year else 1))
    if low in _ORDINALS and at + 1 < len(words) and words[at + 1].low in ("quarter", "half"):
        return _part_of_year(words, at, now)
    year = _year(words, at)
    if year:
        return Period(dt.datetime(year, 1, 1), dt.datetime(year + 1, 1, 1), str(year)), at + 1
    return None


def _of_month(words: list[Token], at: int, month: int, now: dt.datetime) -> tuple[Period, int] | None:
    year = _year(words, at + 1)
    day = number(words[at + 1]) if at + 1 < len(words) and year is None and words[at + 1].low.isdigit() else None
    if day and day <= 31:
        return _day(day, month, _year(words, at + 2), now, at + 2)
    end = at + 2 if year else at + 1
    year = year or (now.year if month <= now.month else now.year - 1)
    start = dt.datetime(year, month, 1)
    return Period(start, _plus(start, 1), f"{MONTHS[month - 1].capitalize()} {year}"), end


def _part_of_year(words: list[Token], at: int, now: dt.datetime) -> tuple[Period, int]:
    low = words[at].low
    end = at + 2 + (at + 2 < len(words) and words[at + 2].low in ("of", "in"))
    year = _year(words, end)
    if words[at + 1].low == "quarter":
        return _quarter(_ORDINALS[low], year or now.year, end + (1 if year else 0))
    start = dt.datetime(year or now.year, 1 if _ORDINALS[low] == 1 else 7, 1)
    return Period(start, _plus(start, 6), f"{low} half of {start.year}"), end + (1 if year else 0)


def _day(day: int, month: int, year: int | None, now: dt.datetime, end: int) -> tuple[Period, int] | None:
    try:
        start = dt.datetime(year or now.year, month, day)
    except ValueError:
        return None
    return Period(start, start + dt.timedelta(days=1), f"{start:%Y-%m-%d}"), end + (1 if year else 0)


def _quarter(quarter: int, year: int, end: int) -> tuple[Period, int]:
    start = dt.datetime(year, quarter * 3 - 2, 1)
    return Period(start, _plus(start, 3), f"Q{quarter} {year}"), end


def _relative(words: list[Token], at: int, now: dt.datetime, unit_before: str) -> tuple[Period, int] | None:
    low = words[at].low
    if low in ("today", "yesterday", "tomorrow"):
        shift = {"today": 0, "yesterday": -1, "tomorrow": 1}[low]
        return Period(*span("day", now + dt.timedelta(days=shift)), low), at + 1
    if low not in ("this", "last", "previous", "current", "past"):
        return None
    following = words[at + 1] if at + 1 < len(words) else None
    if following is not None and following.stem in UNITS:
        kind = this if low in ("this", "current") else last
        end = at + 2
        if [w.low for w in words[end : end + 2]] == ["so", "far"]:
            end += 2
        return kind(following.stem, now), end
    count = number(following) if following is not None else None
    if count and at + 2 < len(words) and words[at + 2].stem in UNITS:
        unit = words[at + 2].stem
        days = {"day": 1, "week": 7}.get(unit)
        start = now - dt.timedelta(days=days * count) if days else _plus(now, -count * _months(unit))
        return Period(start, now, f"last {count} {unit}s", to_now=True), at + 3
    # "this year against last": the unit is the one said before.
    if low == "last" and unit_before and (following is None or following.low in ("and", "by", "per")):
        return last(unit_before, now), at + 1
    return None


def _months(unit: str) -> int:
    return {"month": 1, "quarter": 3, "year": 12}[unit]
