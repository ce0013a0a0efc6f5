"""What a question asks for, in terms of the schema, before any SQL is written."""

from __future__ import annotations

from dataclasses import dataclass, field

from .periods import Period
from .prompt import Column, Measure


@dataclass(frozen=True)
class Figure:
    """A figure to compute: a measure, an aggregate of a column, or a count of a table's rows."""

    measure: Measure | None = None
    function: str = "COUNT"
    column: Column | None = None
    table: str = ""
    since: Column | None = None
    """The earlier time, where the time from one to another is meant."""
    said: tuple[int, ...] = field(default=(), compare=False)
    """Which words of the question ask for it, by their places."""

    @property
    def base(self) -> str:
        """The table whose rows go into it."""
        if self.measure is not None:
            return self.measure.of
        return self.column.table if self.column is not None else self.table


@dataclass(frozen=True)
class Group:
    """One thing to group by: a column, the label of a table (by a key), or a unit of time."""

    column: Column | None = None
    table: str = ""
    via: str | None = None
    unit: str = ""
    said: tuple[int, ...] = field(default=(), compare=False)


@dataclass(frozen=True)
class Filter:
    """A condition on a column: `operator` and literals, or IS NULL; `negated` says NOT. `via` is the key by which its
    table is reached, `average` compares with the average of all rows.
    """

    column: Column
    operator: str
    value: str = ""
    negated: bool = False
    via: str | None = None
    average: bool = False
    said: tuple[int, ...] = field(default=(), compare=False)


@dataclass
class Intent:
    """The whole of it. `ascending` orders by the first figure; None leaves it to the groups."""

    figures: list[Figure] = field(default_factory=list)
    groups: list[Group] = field(default_factory=list)
    filters: list[Filter] = field(default_factory=list)
    mentioned: list[str] = field(default_factory=list)
    periods: list[Period] = field(default_factory=list)
    periods_said: list[tuple[int, ...]] = field(default_factory=list)
    when: Column | None = None
    weekday: int | None = None
    weekday_said: tuple[int, ...] = ()
    older_than_days: int | None = None
    age_said: tuple[int, ...] = ()
    share: bool = False
    ascending: bool | None = None
    limit: int | None = None
    never: str = ""
    """A table of which the rows that are meant have none."""
    never_said: tuple[int, ...] = ()
    rows_of: str = ""
    """A table whose rows are to be listed; then there are no figures."""
    ranked_by: Column | None = None
    """What such rows are ordered by."""
    instead: list[str] = field(default_factory=list)
    """Other tables that may be meant, where the question names none."""
    order_said: set[int] = field(default_factory=set)
    rows_said: set[int] = field(default_factory=set)
    """Words that say which rows are meant, or name a table that leads nowhere else."""

    @property
    def base(self) -> str:
        """The table to start from."""
        return self.rows_of or self.figures[0].base


class NotInData(Exception):
    """The prompt does not hold what the question needs."""


class AsksForChange(Exception):
    """The question wants data changed; `table` when it is clear which."""

    def __init__(self, table: str = "") -> None:
        super().__init__("the question asks to change data")
        self.table = table
