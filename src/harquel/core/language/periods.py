"""The times that a question names, as intervals: "last quarter", "July 2026 against July 2025", "before 2020".

Calendar periods are those before, around or after the instant that the question is about.
"""

from __future__ import annotations

import datetime as dt
import re
from dataclasses import dataclass, replace
from typing import Final

from dateutil.relativedelta import relativedelta

from harquel.core.calendar import USUAL, Calendar

MONTHS: Final = (
    "january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november",
    "december",
)  # fmt: skip
WEEKDAYS: Final = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
EARLIEST, LATEST = dt.datetime(1, 1, 1), dt.datetime(9999, 1, 1)
_ORDINALS: Final = {"first": 1, "1st": 1, "second": 2, "2nd": 2, "third": 3, "3rd": 3, "fourth": 4, "4th": 4}
_MONTH: Final = "|".join([*MONTHS, *(f"{m[:3]}\\.?(?![a-z])" for m in MONTHS if m != "may"), "sept"])
_UNITS: Final = "day|week|month|quarter|year"
_SEASONS: Final = {"spring": 3, "summer": 6, "autumn": 9, "winter": 12}
"""The month that each begins with, as meteorologists have it; each has three."""
_UP_TO_NOW: Final = re.compile(r"\b(?:up to|until|till|to) (?:now|date|today)\b|\bso far\b")
_NUMBERS: Final = {
    "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "twelve": 12,
    "thirty": 30, "ninety": 90,
}  # fmt: skip
_COUNT: Final = "|".join([r"\d+", *_NUMBERS])
_DATE: Final = (
    r"(?:(?P<y{n}>\d{{4}})-(?P<m{n}>\d\d)-(?P<d{n}>\d\d)\b(?!-)"
    r"|(?P<name{n}>" + _MONTH.replace("{", "{{").replace("}", "}}") + r")(?: the)? (?P<of{n}>\d{{1,2}})(?:st|nd|rd|th)?"
    r"(?![\d:])(?:,? (?P<in{n}>(?:19|20)\d\d)\b)?"
    r"|(?P<day{n}>\d{{1,2}})(?:st|nd|rd|th|\.)?(?: (?:of )?(?P<month{n}>"
    + _MONTH.replace("{", "{{").replace("}", "}}")
    + r")\b(?:,? (?P<year{n}>(?:19|20)\d\d)\b)?)?)"
)
"""A date in figures, "May 3rd, 2026", "3 May 2026", or the part of one that its neighbour completes."""
_OF_FISCAL: Final = "(?:fiscal|financial|business)"
_HUNDRED: Final = 100
_ONE: Final = _DATE.format(n="")
_RANGE: Final = (
    rf"{_DATE.format(n=1)}(?: (?:to|through|until|till|and) (?:the )?| ?[-–] ?){_DATE.format(n=2)}"
    r"(?:,? (?P<late>(?:19|20)\d\d)\b)?"
)
_PATTERNS: Final = tuple(
    (name, re.compile(pattern))
    for name, pattern in (
        ("range", rf"\b(?:(?:from|between) (?:the )?)?{_RANGE}"),
        ("week of", rf"\bweek (?P<begins>of|from|starting|beginning)(?: on)? (?:the )?{_ONE}"),
        ("date", rf"\b{_ONE}"),
        ("same", r"\b(?:same|corresponding) (?:period|time|months|days) (?:of |in )?(?:the )?(?:last|previous) year\b"),
        (
            "fiscal",
            rf"\b(?P<which>this|current|last|previous|next) {_OF_FISCAL} (?P<unit>year|quarter)\b"
            rf"|\b(?:(?:q(?P<number>[1-4])|(?P<quarter>first|second|third|fourth|1st|2nd|3rd|4th) quarter)"
            rf"(?: (?:of|in))?(?: the)? )?(?:{_OF_FISCAL}(?: year)? ?|fy ?)"
            rf"(?:(?P<begins>(?:19|20)\d\d)[/–-](?:\d\d){{1,2}}\b|(?P<year>(?:19|20)\d\d|\d\d)\b)",
        ),
        ("half", r"\b(first|1st|second|2nd) half (?:of )?(\d{4})\b"),
        ("quarter", r"\b(first|second|third|fourth|1st|2nd|3rd|4th) quarter (?:of )?(\d{4})\b"),
        ("quarter", r"\bq([1-4]) (?:of )?(\d{4})\b"),
        ("quarter", r"\b([1-4])\. quarter (?:of )?(\d{4})\b"),
        ("months", rf"\b({_MONTH}) (?:to|through|until|till|and|-|–) ({_MONTH}) (?:of )?(\d{{4}})\b"),
        ("season", r"\b(spring|summer|autumn|winter) (?:of )?(\d{4})\b(?: ?\([^)]*\))?"),
        ("month", rf"\b({_MONTH}) (?:of )?(\d{{4}})\b"),
        ("full", rf"\b(?:last|past|previous) ({_COUNT}) (?:full|whole|complete|calendar) ({_UNITS})s\b"),
        ("rolling", rf"\b(?:last|past|previous) ({_COUNT}) ({_UNITS})s\b"),
        ("coming", rf"\b(?:next|coming|following) ({_COUNT}) ({_UNITS})s\b"),
        ("relative", rf"\b(this|current|last|previous|next) ({_UNITS})\b"),
        ("word", r"\b(today|yesterday|tomorrow)\b"),
        ("before that", rf"\bthe ({_UNITS}) before(?: that| it)?(?= *(?:$|[?.!,;)]))"),
        ("bare", r"\b(?:against|with|versus|vs\.?|to|and) last\b(?! \w*(?:day|week|month|quarter|year))"),
        ("year", r"(?<![\d.,-])((?:19|20)\d\d)\b(?![-.]\d)"),
        ("named", rf"\b(?:in|during|since|of|last|this(?! may\b)) ({_MONTH})(?! \d)\b"),
    )
)


@dataclass(frozen=True)
class Period:
    """From `start` up to, not including, `end`; `at_least` is the earliest end that would do as well.

    A year that is under way may be asked for up to now or whole. `first` and `last` are its place in the question.
    """

    start: dt.datetime
    end: dt.datetime
    at_least: dt.datetime
    label: str
    first: int = 0
    last: int = 0
    calendar: bool = True


def periods_in(question: str, now: dt.datetime, calendar: Calendar = USUAL) -> list[Period]:
    """The periods that a question names, in its order. `now` is the instant that it is about, as clocks show it where
    people are; weeks and fiscal years are theirs.
    """
    now = now.replace(tzinfo=None)
    text = question.lower()
    taken = [False] * len(text)
    found: list[Period] = []
    for name, pattern in _PATTERNS:
        for match in pattern.finditer(text):
            if any(taken[match.start() : match.end()]):
                continue
            period = _period(name, match, now, found, calendar)
            if period is not None:
                taken[match.start() : match.end()] = [True] * (match.end() - match.start())
                found.append(_opened(replace(period, first=match.start(), last=match.end()), text))
    found.sort(key=lambda p: p.first)
    if re.search(r"\b(?:up to|until|to) the same (?:day|date|time|point)\b", text):
        found = [_cut(p, now) for p in found]
    if _UP_TO_NOW.search(text):
        found = [replace(p, end=now + dt.timedelta(days=1)) if p.start <= now < p.end else p for p in found]
    return found


def _period(
    name: str, match: re.Match[str], now: dt.datetime, before: list[Period], calendar: Calendar
) -> Period | None:
    label = match.group(0)
    if name == "fiscal":
        return _fiscal(match.groupdict(), now, label, calendar)
    if name in ("range", "week of", "date"):
        # The word may is a month where something dates it.
        before_it = match.string[max(0, match.start() - 20) : match.start()]
        dated = re.search(r"\b(?:on|since|before|after|until|by|from|between|the)\s(?:the )?$", before_it)
        if name == "date" and not dated and re.search(r"\bmay\b", label) and not re.search(r"\d{4}", label):
            return None
        return _dated(name, match.groupdict(), now, label, calendar)
    given = match.groups()
    if name in ("same", "before that", "bare"):
        return _beside(name, given, now, before, label, calendar)
    if name in ("full", "rolling", "coming"):
        return _counted(name, given, now, label, calendar)
    if name == "relative":
        return _relative(given[0], given[1], now, label, calendar)
    if name == "word":
        start = _day(now) + dt.timedelta(days={"today": 0, "yesterday": -1, "tomorrow": 1}[given[0]])
        return _span(start, "day", 1, now, label)
    return _named(name, given, now, label)


def _beside(
    name: str, given: tuple[str, ...], now: dt.datetime, before: list[Period], label: str, calendar: Calendar
) -> Period | None:
    """One that is said by another that the question names; None where it names none."""
    if name == "same":
        this = next((p for p in before if p.label in ("this year", "current year")), None)
        start = dt.datetime(now.year - 1, 1, 1) if this is None else this.start.replace(year=this.start.year - 1)
        end = _year_earlier(now)
        return Period(start, end + dt.timedelta(days=1), _day(end), label)
    if name == "before that":
        known = next((p for p in before if p.start > EARLIEST and shifted(p.start, given[0], 1) == p.end), None)
        return None if known is None else _span(shifted(known.start, given[0], -1), given[0], 1, now, label)
    this = next((p for p in before if p.label.startswith(("this ", "current "))), None)
    return None if this is None else _relative("last", this.label.split()[-1], now, label, calendar)


def _counted(name: str, given: tuple[str, ...], now: dt.datetime, label: str, calendar: Calendar) -> Period:
    """So many units up to now, or from now on."""
    count = _NUMBERS.get(given[0]) or int(given[0])
    if name == "full":
        end = start_of(now, given[1], calendar)
        return _span(shifted(end, given[1], -count), given[1], count, now, label)
    if name == "rolling":
        start = shifted(now, given[1], -count)
        return Period(_day(start), now + dt.timedelta(days=1), _day(now), label, calendar=False)
    end = shifted(now, given[1], count)
    return Period(_day(now), _day(end) + dt.timedelta(days=1), _day(end), label, calendar=False)


def _named(name: str, given: tuple[str, ...], now: dt.datetime, label: str) -> Period:
    """One that has a name of its own in the calendar."""
    if name == "half":
        start = dt.datetime(int(given[1]), 1 + 6 * (_ORDINALS[given[0]] - 1), 1)
        return _span(start, "month", 6, now, label)
    if name == "quarter":
        number = _ORDINALS.get(given[0]) or int(given[0])
        return _span(dt.datetime(int(given[1]), 3 * number - 2, 1), "month", 3, now, label)
    if name == "months":
        first, last = _month(given[0]), _month(given[1])
        start = dt.datetime(int(given[2]) - (first > last), first, 1)
        return _span(start, "month", (last - first) % 12 + 1, now, label)
    if name == "season":
        return _span(dt.datetime(int(given[1]), _SEASONS[given[0]], 1), "month", 3, now, label)
    if name == "month":
        return _span(dt.datetime(int(given[1]), _month(given[0]), 1), "month", 1, now, label)
    if name == "named":
        month = _month(given[0])
        year = now.year if month <= now.month else now.year - 1
        return _span(dt.datetime(year, month, 1), "month", 1, now, label)
    return _span(dt.datetime(int(given[0]), 1, 1), "year", 1, now, label)


def _dated(name: str, given: dict[str, str | None], now: dt.datetime, label: str, calendar: Calendar) -> Period | None:
    """A day, the week around or from one, or all days from one to another. None where it is no date after all."""
    try:
        if name == "range":
            one, other = _parts(given, "1"), _parts(given, "2")
            other = (other[0] or (int(given["late"]) if given["late"] else None), *other[1:])
            if " and " in label and not label.startswith("between"):
                return None  # two days, not all between them
            if one[1] is None and other[1] is None:
                return None  # 3 to 9 of something else
            last = _complete(other, one, now)
            first = _complete(one, (last.year, last.month, None), now, last)
            return _span(first, "day", (last - first).days + 1, now, label) if first <= last else None
        parts = _parts(given, "")
        if parts[1] is None:
            return None
        day = _complete(parts, parts, now)
    except ValueError:
        return None
    if name == "date":
        return _span(day, "day", 1, now, label)
    return _span(start_of(day, "week", calendar) if given["begins"] == "of" else day, "day", 7, now, label)


def _fiscal(given: dict[str, str | None], now: dt.datetime, label: str, calendar: Calendar) -> Period | None:
    """A fiscal year or a quarter of one; None where nobody says when it begins."""
    if calendar.fiscal_year is None:
        return None
    # Found as one of the calendar, then moved to where it is.
    here, which = calendar.moved(now, "fiscal year"), given["which"]
    if which is not None:
        found = _relative(which, str(given["unit"]), here, label, calendar)
    else:
        number = int(str(given["begins"] or given["year"]))
        number += 2000 if number < _HUNDRED else 0
        year, quarter = number if given["begins"] else calendar.began_in(number), given["quarter"] or given["number"]
        month = 3 * (_ORDINALS.get(quarter) or int(quarter)) - 2 if quarter else 1
        found = _span(dt.datetime(year, month, 1), "month", 3 if quarter else 12, here, label)
    start, end = (calendar.moved_back(at) for at in (found.start, found.end))
    return replace(found, start=start, end=end, at_least=_day(now) if start <= now < end else end)


_Parts = tuple[int | None, int | None, int | None]
"""Year, month and day, as far as they are written."""


def _parts(given: dict[str, str | None], which: str) -> _Parts:
    def number(name: str) -> int | None:
        text = given[f"{name}{which}"]
        return int(text) if text else None

    if given[f"y{which}"]:
        return number("y"), number("m"), number("d")
    named = given[f"name{which}"]
    if named:
        return number("in"), _month(named), number("of")
    month = given[f"month{which}"]
    return number("year"), _month(month) if month else None, number("day")


def _complete(own: _Parts, other: _Parts, now: dt.datetime, before: dt.datetime | None = None) -> dt.datetime:
    """The date with what its neighbour says; without a year the latest that has begun, or that is not after `before`.

    Raises ValueError for a date that no calendar has.
    """
    year, month, day = own[0] or other[0], own[1] or other[1], own[2]
    if month is None or day is None:
        raise ValueError("no date")
    if own[0] is None and before is not None:
        year = before.year - (month > before.month)
    if year is None:
        year = now.year - (dt.datetime(2000, month, min(day, 28)) > now.replace(year=2000))
    return dt.datetime(year, month, day)


def _relative(which: str, unit: str, now: dt.datetime, label: str, calendar: Calendar) -> Period:
    start = start_of(now, unit, calendar)
    move = {"last": -1, "previous": -1, "next": 1}.get(which, 0)
    return _span(shifted(start, unit, move), unit, 1, now, label)


def _span(start: dt.datetime, unit: str, count: int, now: dt.datetime, label: str) -> Period:
    end = shifted(start, unit, count)
    return Period(start, end, _day(now) if start <= now < end else end, label)


def _opened(period: Period, text: str) -> Period:
    before = text[max(0, period.first - 12) : period.first]
    if re.search(r"\b(?:before|until|prior to)\s$", before):
        return replace(period, start=EARLIEST, end=period.start, at_least=period.start, label=f"before {period.label}")
    if re.search(r"\bsince (?:the )?(?:(?:start|beginning) of )?$", text[max(0, period.first - 30) : period.first]):
        return replace(period, end=LATEST, at_least=min(period.at_least, period.end), label=f"since {period.label}")
    if re.search(r"\bafter\s$", before):
        return replace(period, start=period.end, end=LATEST, at_least=period.end, label=f"after {period.label}")
    behind = text[period.last : period.last + 24]
    if before.endswith("from ") and re.match(r"\s+on(?=\s*(?:$|[?.!,;]))", behind):
        return replace(period, end=LATEST, at_least=min(period.at_least, period.end), label=f"since {period.label}")
    if re.match(r"\s*(?:(?:or|and) (?:later|after|newer|since)\b|onwards?\b)", behind):
        return replace(period, end=LATEST, at_least=min(period.at_least, period.end), label=f"since {period.label}")
    if re.match(r"\s*(?:or|and) (?:earlier|before|older)\b", behind):
        return replace(period, start=EARLIEST, label=f"up to {period.label}")
    return period


def _cut(period: Period, now: dt.datetime) -> Period:
    end = now.replace(year=period.start.year) if period.start.year else now
    return replace(period, end=_day(end) + dt.timedelta(days=1), at_least=_day(end))


def _month(word: str) -> int:
    return next(i for i, m in enumerate(MONTHS, 1) if m.startswith(word[:3]))


def _day(moment: dt.datetime) -> dt.datetime:
    return moment.replace(hour=0, minute=0, second=0, microsecond=0)


def _year_earlier(moment: dt.datetime) -> dt.datetime:
    return shifted(moment, "year", -1)


def start_of(moment: dt.datetime, unit: str, calendar: Calendar = USUAL) -> dt.datetime:
    """The beginning of the day, week, month, quarter or year around a moment."""
    day = _day(moment)
    if unit == "week":
        return day - dt.timedelta(days=(day.weekday() - calendar.first_weekday) % 7)
    if unit == "month":
        return day.replace(day=1)
    if unit == "quarter":
        return day.replace(month=3 * ((day.month - 1) // 3) + 1, day=1)
    return day.replace(month=1, day=1) if unit == "year" else day


def shifted(moment: dt.datetime, unit: str, count: int) -> dt.datetime:
    """A moment so many units later; the last day of a month where there is no such day, itself beyond all time."""
    try:
        if unit == "quarter":
            return moment + relativedelta(months=3 * count)
        return moment + relativedelta(**{f"{unit}s": count})  # type: ignore[arg-type]
    except (ValueError, OverflowError):
        return moment
