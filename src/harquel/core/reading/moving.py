"""How a question was understood, at another instant: times that are said by the calendar of then move along."""

from __future__ import annotations

import datetime as dt
from functools import partial
from typing import Any

from harquel.core.calendar import Calendar
from harquel.core.language.periods import Period, periods_in
from harquel.core.reading.ground import grounded
from harquel.core.reading.value import Reading

_SECOND = dt.timedelta(seconds=1)


def moved(
    reading: Reading, question: str, then: dt.datetime, now: dt.datetime, calendar: Calendar
) -> tuple[Reading, bool] | None:
    """The same as it is meant now, and whether any time of it is another; instants as clocks show them where people
    are. None where it cannot be told how a time moves.
    """
    then, now = then.replace(tzinfo=None), now.replace(tzinfo=None)
    told = reading.told()
    try:
        any_moved = _move(told, then, now, calendar)
    except ValueError:
        return None
    found = Reading.model_validate(told)
    if found.others or grounded(found, question, now, calendar):
        return None
    return found, any_moved


def _move(part: Any, then: dt.datetime, now: dt.datetime, calendar: Calendar) -> bool:
    """Whatever in it is a time. Raises ValueError for one that cannot be moved."""
    if isinstance(part, list):
        return any(list(map(partial(_move, then=then, now=now, calendar=calendar), part)))
    if not isinstance(part, dict):
        return False
    found = False
    for name, one in part.items():
        found |= name != "during" and _move(one, then, now, calendar)
    for time in part.get("during", ()):
        found |= _move_time(time, then, now, calendar)
    return found


def _move_time(time: dict[str, Any], then: dt.datetime, now: dt.datetime, calendar: Calendar) -> bool:
    words = str(time.get("words", ""))
    before, after = periods_in(words, then, calendar), periods_in(words, now, calendar)
    if len(before) != 1 or len(after) != 1:
        raise ValueError(words)
    changed = False
    for name in ("from", "until"):
        if time.get(name) is not None:
            at = _end(str(time[name]), before[0], after[0], then, now)
            changed |= at != time[name]
            time[name] = at
    return changed


def _end(text: str, before: Period, after: Period, then: dt.datetime, now: dt.datetime) -> str:
    at = dt.datetime.fromisoformat(text)
    ends = (
        (before.start, after.start), (before.end, after.end), (before.at_least, after.at_least),
        (then, now), (then + _SECOND, now + _SECOND),
    )  # fmt: skip
    for old, new in ends:
        if at == old:
            # As it was written, where it is the same.
            return text if old == new else new.isoformat(" ")
    raise ValueError(text)
