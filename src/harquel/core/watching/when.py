"""When a watched question is asked: a cron form, or words of every day, by the clocks of the source's people.

Around a change of summer time it keeps to what cron does: what falls into the hour that is left out happens once, right
after it; what falls into the hour that comes twice happens once. (CronSim works that out.)
"""

from __future__ import annotations

import datetime as dt
import itertools
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final
from zoneinfo import ZoneInfo

from cronsim import CronSim, CronSimError

from harquel.core.language.say import Said, said_as

LEAST: Final = dt.timedelta(minutes=5)
"""From one time to the next, at least."""
LONGEST: Final = 120
"""Characters of what says when."""
_LOOKED_AT: Final = 400
"""Times that are looked at for how close they come to each other: more than a year of daily ones."""
_CRON: Final = re.compile(r"[0-9*/,\-A-Za-z]+(?: [0-9*/,\-A-Za-z#]+){4}")
_CLOCK: Final = r"(?:at |um )?(\d{1,2})(?:[:.](\d{2}))?\s*(am|pm|uhr)?"
_DAYS: Final = {
    name: number
    for number, names in enumerate(
        ("sunday sonntag", "monday montag", "tuesday dienstag", "wednesday mittwoch", "thursday donnerstag",
         "friday freitag", "saturday samstag sonnabend")
    )
    for name in names.split()
}  # fmt: skip
_DAY: Final = "|".join(_DAYS)


class NotWhen(ValueError):
    """It does not say when; `said` says what is wrong."""

    def __init__(self, said: Said) -> None:
        super().__init__(str(said))
        self.said = said


@dataclass(frozen=True)
class When:
    """A cron form of five fields, and the zone whose clocks it is about."""

    cron: str
    zone: str

    def after(self, instant: dt.datetime) -> dt.datetime:
        """The first time after an instant, in UTC. Raises NotWhen where there is none within fifty years."""
        here = instant.astimezone(ZoneInfo(self.zone))
        try:
            return next(CronSim(self.cron, here)).astimezone(dt.UTC)
        except (CronSimError, StopIteration) as error:
            raise NotWhen(said_as("when-never")) from error

    def latest(self, since: dt.datetime, until: dt.datetime) -> dt.datetime | None:
        """The last time after one instant and not after another; None where there is none."""
        here = (until + dt.timedelta(seconds=1)).astimezone(ZoneInfo(self.zone))
        try:
            found = next(CronSim(self.cron, here, reverse=True)).astimezone(dt.UTC)
        except (CronSimError, StopIteration):
            return None
        return found if since < found <= until else None


@dataclass(frozen=True)
class Quiet:
    """Hours in which nobody is told anything, by the clocks of a zone; over midnight where the end is the earlier."""

    begins: dt.time
    ends: dt.time
    zone: str

    def over(self, instant: dt.datetime) -> dt.datetime:
        """The instant itself, or the end of the quiet hours that it falls into."""
        here = instant.astimezone(ZoneInfo(self.zone))
        now = here.time()
        inside = (
            self.begins <= now < self.ends if self.begins < self.ends else now >= self.begins or now < self.ends
        )  # fmt: skip
        if not inside:
            return instant
        day = here.date() if now < self.ends else here.date() + dt.timedelta(days=1)
        return dt.datetime.combine(day, self.ends, ZoneInfo(self.zone)).astimezone(dt.UTC)


def when_of(text: str, zone: str, now: dt.datetime) -> When:
    """What a text means: a cron form of five fields, or words. Raises NotWhen: not understood, never, or too often."""
    plain = " ".join(text.casefold().strip(" .").split())
    if not plain or len(plain) > LONGEST:
        raise NotWhen(said_as("when-not-understood"))
    cron = plain.upper() if _CRON.fullmatch(plain) and any(c.isdigit() or c == "*" for c in plain) else _in_words(plain)
    if cron is None:
        raise NotWhen(said_as("when-not-understood"))
    try:
        CronSim(cron, now)
    except CronSimError as error:
        raise NotWhen(said_as("when-not-understood")) from error
    when = When(cron, zone)
    when.after(now)
    times = itertools.islice(CronSim(cron, now.astimezone(dt.UTC)), _LOOKED_AT)
    if any(later - earlier < LEAST for earlier, later in itertools.pairwise(times)):
        raise NotWhen(said_as("when-too-often", minutes=int(LEAST.total_seconds() // 60)))
    return when


def _in_words(plain: str) -> str | None:
    for pattern, make in _WORDS:
        found = re.fullmatch(pattern, plain)
        if found is not None:
            return make(found)
    return None


def _clock(found: re.Match[str], first: int) -> str:
    """Minute and hour, of three groups from one on; six in the morning where nothing is said."""
    if found[first] is None:
        return "0 6"
    hour, minute, half = int(found[first]), int(found[first + 1] or 0), found[first + 2]
    if half in ("am", "pm"):
        if not 1 <= hour <= 12:
            return "60 0"  # no time of any day: the form is refused
        hour = hour % 12 + (12 if half == "pm" else 0)
    return f"{minute} {hour}"


def _often(found: re.Match[str]) -> str:
    """Every so many minutes, where an hour has so many of them."""
    many = int(found[1])
    return f"*/{many} * * * *" if many and 60 % many == 0 else "60 * * * *"


def _weekly(found: re.Match[str]) -> str:
    days = sorted(
        {
            _DAYS[name.removesuffix("s") if name not in _DAYS else name]
            for name in re.findall(r"[a-zäöü]+", found[1])
            if name in _DAYS or name.removesuffix("s") in _DAYS
        }
    )
    return f"{_clock(found, 2)} * * {','.join(map(str, days))}"


_WORDS: Final[tuple[tuple[str, Callable[[re.Match[str]], str]], ...]] = (
    (r"hourly|every hour|stündlich|jede stunde", lambda _: "0 * * * *"),
    (r"(?:every|alle) (\d{1,2}) (?:minutes|minuten)", _often),
    (r"(?:every|alle) (\d{1,2}) (?:hours|stunden)", lambda m: f"0 */{m[1]} * * *"),
    (rf"(?:daily|every day|täglich|jeden tag)(?: {_CLOCK})?", lambda m: f"{_clock(m, 1)} * * *"),
    (
        rf"(?:on )?(?:every )?(?:weekdays?|working days?|werktags|wochentags)(?: {_CLOCK})?",
        lambda m: f"{_clock(m, 1)} * * 1-5",
    ),
    (
        rf"(?:every |on |jeden |am )?((?:(?:{_DAY})s?)(?:(?:, | and | und )(?:{_DAY})s?)*)(?: {_CLOCK})?",
        _weekly,
    ),
    (
        rf"(?:on the |am )(\d{{1,2}})(?:st|nd|rd|th|\.) (?:of (?:each|every|the) month|jedes monats)(?: {_CLOCK})?",
        lambda m: f"{_clock(m, 2)} {m[1]} * *",
    ),
    (
        rf"(?:monthly|every month|monatlich|jeden monat)(?: {_CLOCK})?", lambda m: f"{_clock(m, 1)} 1 * *",
    ),
)  # fmt: skip
