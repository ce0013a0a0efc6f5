"""By which calendar the people of a source reckon: their zone, their weeks, their fiscal year; and in which times its
database holds what it holds.

Everything that people read or say is in their zone: "today", "in March", the hour of a sailing. Only where a statement
meets a column that holds UTC is it converted (core/sql/local_time.py).
"""

from __future__ import annotations

import datetime as dt
from functools import cached_property
from typing import Final, Literal
from zoneinfo import ZoneInfo

from dateutil.relativedelta import relativedelta
from pydantic import BaseModel, ConfigDict, Field, field_validator

Weekday = Literal["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"]
Month = Literal[
    "january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november",
    "december",
]  # fmt: skip
WEEKDAYS: Final[tuple[Weekday, ...]] = (
    "monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday",
)  # fmt: skip
MONTHS: Final[tuple[Month, ...]] = (
    "january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november",
    "december",
)  # fmt: skip
FISCAL: Final = {"fiscal year": "year", "fiscal quarter": "quarter"}
"""Units of a fiscal year, and those of the calendar year that they are when it is moved."""
_LONGEST: Final = 60
"""Characters of the name of a zone."""


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class FiscalYear(_Part):
    """When it begins, and which year a single number names: "FY 2026" can be the one that begins in 2026 or ends."""

    begins: Month = Field(description="the month whose first day is its first")
    named_by: Literal["start", "end"] = Field(description='the year in which "fiscal year 2026" begins, or ends')


class Calendar(_Part):
    """`zone` is that of the people, by its IANA name. `stored` says what times without a zone in the database are:
    what clocks show there, or UTC; what the database itself keeps as an instant is known by its type.
    """

    zone: str = Field(default="UTC", max_length=_LONGEST, description="IANA name of the zone in which days are meant")
    stored: Literal["local", "utc"] = Field(
        default="local", description="what times without a zone are in the database: those of `zone`, or UTC"
    )
    week_begins: Weekday = Field(default="monday", description="the first day of the week")
    fiscal_year: FiscalYear | None = Field(default=None, description="none: only calendar years are known")

    @field_validator("zone")
    @classmethod
    def _known(cls, zone: str) -> str:
        try:
            ZoneInfo(zone)
        except (ValueError, OSError, KeyError) as fault:
            raise ValueError(
                f"There is no time zone {zone!r}; names are those of IANA, as in Europe/Berlin."
            ) from fault
        return zone

    @cached_property
    def tz(self) -> ZoneInfo:
        """The zone."""
        return ZoneInfo(self.zone)

    @cached_property
    def offsets(self) -> tuple[tuple[int, int], ...]:
        """Seconds that clocks there are ahead of UTC at some instants, in seconds since 1970: by which another table of
        zones is known to be of this one.
        """
        instants = [dt.datetime(year, month, 1, tzinfo=dt.UTC) for year in (1999, 2026) for month in (1, 4, 7, 10)]
        ahead = [int((at.astimezone(self.tz).utcoffset() or dt.timedelta()).total_seconds()) for at in instants]
        return tuple((int(at.timestamp()), seconds) for at, seconds in zip(instants, ahead, strict=True))

    @property
    def usual(self) -> bool:
        """Whether there is nothing to be said of it."""
        return self == USUAL

    def here(self, instant: dt.datetime) -> dt.datetime:
        """What clocks show there at an instant."""
        return instant.astimezone(self.tz)

    def to_utc(self, shown: dt.datetime) -> dt.datetime:
        """When clocks there show this, in UTC and without a zone; of an hour that comes twice the first one."""
        try:
            return shown.replace(tzinfo=self.tz).astimezone(dt.UTC).replace(tzinfo=None)
        except OverflowError:
            return shown

    def from_utc(self, instant: dt.datetime) -> dt.datetime:
        """What clocks there show at a time in UTC, both without a zone."""
        try:
            return instant.replace(tzinfo=dt.UTC).astimezone(self.tz).replace(tzinfo=None)
        except OverflowError:
            return instant

    @property
    def first_weekday(self) -> int:
        """Of the week, 0 is Monday."""
        return WEEKDAYS.index(self.week_begins)

    @property
    def months_moved(self) -> int:
        """By how many months the fiscal year begins after January."""
        return MONTHS.index(self.fiscal_year.begins) if self.fiscal_year is not None else 0

    def moved(self, at: dt.datetime, unit: str) -> dt.datetime:
        """A time as if its fiscal year were a calendar year, where the unit is one of a fiscal year."""
        return at - relativedelta(months=self.months_moved) if unit in FISCAL else at

    def moved_back(self, at: dt.datetime) -> dt.datetime:
        """Where a time of a fiscal year that was moved really is."""
        return at + relativedelta(months=self.months_moved)

    def began_in(self, named: int) -> int:
        """The calendar year in which the fiscal year begins that a single number names."""
        ends_later = self.months_moved > 0 and self.fiscal_year is not None and self.fiscal_year.named_by == "end"
        return named - 1 if ends_later else named


USUAL: Final = Calendar()
"""UTC, weeks from Monday, no fiscal year: where nobody says anything else."""


def fiscal_name(year: int) -> str:
    """A fiscal year by both years that it lies in: 2026/27, which nobody takes for another one."""
    return f"{year:04}/{(year + 1) % 100:02}"
