"""What a reading of a question can say: rows of what, which figures, under which conditions, when, per what.

It is our own form, with a JSON Schema (`Reading.model_json_schema()`). Columns are named from the table whose rows are
looked at: `table.column`, or along keys, `key>table.column`, where several ways lead there. Each part may carry the
words of the question that it stands for, with `…` between words that stand apart.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field

MOST: Final = 24
"""Parts of a kind that a reading may have."""
_BEFORE: Final = frozenset({"less", "at most"})
Name = Annotated[str, Field(min_length=1, max_length=300)]
Words = Annotated[str, Field(max_length=300)]
Plain = str | int | float | bool | None
Unit = Literal["year", "quarter", "month", "week", "day", "weekday", "hour", "fiscal year", "fiscal quarter"]
Compared = Literal["equal", "in", "less", "at most", "more", "at least", "between", "like", "empty"]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


class _Said(_Part):
    words: Words = ""
    """Those of the question that it stands for; `…` between words that stand apart."""


class Time(_Said):
    """From an instant up to, not including, another; either end may be open. ISO 8601, without a zone."""

    column: Name | None = None
    """Which time dates a row; left out, the one by which its table or measure is dated."""
    since: str | None = Field(default=None, alias="from", max_length=40)
    until: str | None = Field(default=None, max_length=40)


class Condition(_Said):
    """On a column, on a table that points here (`has`), or several of which `any` holds. `not` turns it around."""

    column: Name | None = None
    how: Compared = Field(default="equal", alias="is")
    values: tuple[Plain, ...] = Field(default=(), max_length=100)
    unit: Literal["weekday", "hour", "clock"] | None = None
    """What of a time is compared: its weekday (0 is Sunday), its hour, or the time of day, as in 07:30."""
    other: Name | None = None
    """Another column to compare with, instead of values."""
    than: Standard | None = None
    """A figure by itself to compare with, instead of values: the average of all, the length of one of them."""
    worth: Worth | None = None
    """Instead of a column, what a row is worth: how long it took, or what others come to that point at it."""
    any: tuple[Condition, ...] = Field(default=(), max_length=MOST)
    has: Name | None = None
    """A table whose rows point at these: some (or `at_least`, `at_most`) that meet `only` and `during`."""
    key: Name | None = None
    """By which of its columns it points here, where there are several."""
    different: Name | None = None
    """Not its rows are counted, but the different values of this column of theirs."""
    same: Unit | None = None
    """Its rows need not point here: they are of the same day, or another unit of the times that date both."""
    only: tuple[Condition, ...] = Field(default=(), max_length=MOST)
    during: tuple[Time, ...] = Field(default=(), max_length=MOST)
    at_least: int | None = Field(default=None, ge=0, le=10**9)
    at_most: int | None = Field(default=None, ge=0, le=10**9)
    turned: bool = Field(default=False, alias="not")


class Inner(_Said):
    """A figure over the rows of another table that point at a row: none of them count, and sum up to, nothing."""

    rows: Name
    key: Name | None = None
    """By which of its columns they point here, where there are several."""
    figure: Literal["count", "distinct", "sum", "average", "minimum", "maximum", "measure"] = "count"
    of: Name | None = None
    times: Name | None = None
    """A column to multiply it with."""
    only: tuple[Condition, ...] = Field(default=(), max_length=MOST)
    during: tuple[Time, ...] = Field(default=(), max_length=MOST)


Term = Name | Inner


class Worth(_Said):
    """What a row is worth: a column or a figure over rows that point at it, less another, times another, by another, or
    how long it took.
    """

    of: Term | None = None
    """The column, the figure, or the name of the measure."""
    less: Term | None = None
    """To be taken off the first one."""
    times: Term | None = None
    """To multiply it with."""
    over: Term | None = None
    """To divide it by."""
    since: Name | None = None
    """From which time to that of `of` it lasted; "now" and "today" are the instant of the question and its midnight."""
    unit: Literal["days", "hours", "minutes"] = "days"
    divided: float = Field(default=1, gt=0)
    """By how much it is divided, to give it in another unit."""


class Standard(Worth):
    """One figure over rows of any table, that another value is held against."""

    rows: Name
    figure: Literal["average", "minimum", "maximum", "sum", "count", "distinct"] = "average"
    only: tuple[Condition, ...] = Field(default=(), max_length=MOST)
    during: tuple[Time, ...] = Field(default=(), max_length=MOST)
    within: Name | None = None
    """Over those rows only that have the same of this column as the row itself."""


class Figure(Worth):
    """One figure. `only` and `during` narrow the rows that go into it, beyond those of the whole reading.

    `share` is the part of all rows that meet `only`, in percent; `difference`, `ratio` and `percent` are of two earlier
    figures, by their places from 0. Of one earlier figure, named twice: `part` is what each group has of all that it
    comes to, in percent, `running` what it comes to up to a group, `change` what it is more than in the group before,
    in the order of the first thing that figures are given for.
    """

    figure: Literal[
        "count", "distinct", "sum", "average", "minimum", "maximum", "share", "measure", "difference", "ratio",
        "percent", "part", "running", "change", "median",
    ] = "count"  # fmt: skip
    between: tuple[int, int] | None = None
    only: tuple[Condition, ...] = Field(default=(), max_length=MOST)
    during: tuple[Time, ...] = Field(default=(), max_length=MOST)


class Per(_Said):
    """What figures are given for each of: the values of a column, or units of its time."""

    column: Name
    unit: Unit | None = None
    empty: bool = False
    """Whether rows that lead to none of them are given too, as a group of their own."""


class Order(_Said):
    """By a figure, in a list by something shown (its place from 0), or by a column."""

    by: int | Name
    descending: bool = False


class Each(_Said):
    """Only the best of each: of the rows or groups that have the same `per`, those that come first, ties too.

    Figures are worked out from such rows alone where `by` is a column that they are not given per.
    """

    per: Name
    unit: Unit | None = None
    by: int | Name
    descending: bool = False
    top: int = Field(default=1, ge=1, le=1000)


class Kept(_Said):
    """Which groups stay, by one of their figures, held against a value or against its average over the groups."""

    figure: int = Field(default=0, ge=0, lt=MOST)
    how: Literal["equal", "less", "at most", "more", "at least"] = Field(default="at least", alias="is")
    value: float | None = None
    """Left out, the average."""
    within: Name | None = None
    """Over those groups only that have the same of this column."""


class Across(_Said):
    """One figure made of what an earlier one is in each group: the average of a month, the most that anybody has."""

    figure: Literal["average", "minimum", "maximum", "sum"] = "average"
    of: int = Field(default=0, ge=0, lt=MOST)
    """Of which figure, by its place."""
    per: tuple[Annotated[int, Field(ge=0, lt=MOST)], ...] = Field(default=(), max_length=MOST)
    """For each of what it is given, by their places in the reading's `per`; left out, once."""


class Reading(_Said):
    """A question as it is understood. What does not fit stands in `open`, in words, and is not forced into the rest.

    Its own `words` say which rows are meant, and which columns of a list. Each word of the question that carries
    meaning stands in the words of a part, or in `idle`.
    """

    rows: Name
    """The table whose rows are counted, summed or listed."""
    figures: tuple[Figure, ...] = Field(default=(), max_length=MOST)
    show: tuple[Name | Worth, ...] = Field(default=(), max_length=MOST)
    """The columns of a list; then there are no figures."""
    distinct: bool = False
    """Whether a list names what is alike once."""
    empty: bool = False
    """Whether things of which there are none must be listed, too; otherwise they may."""
    only: tuple[Condition, ...] = Field(default=(), max_length=MOST)
    during: tuple[Time, ...] = Field(default=(), max_length=MOST)
    per: tuple[Per, ...] = Field(default=(), max_length=MOST)
    keep: tuple[Kept, ...] = Field(default=(), max_length=MOST)
    tally: bool = False
    """Whether only how many groups stay is asked for."""
    across: Across | None = None
    """What is made of the groups' figures; then the groups themselves are not given."""
    each: Each | None = None
    order: tuple[Order, ...] = Field(default=(), max_length=MOST)
    top: int | None = Field(default=None, ge=1, le=100_000)
    both: bool = False
    """With `top`, those at the other end of the order too, the shortest and the longest; what is level is given too."""
    open: tuple[Words, ...] = Field(default=(), max_length=MOST)
    idle: tuple[Words, ...] = Field(default=(), max_length=100)
    """Words of the question that ask for nothing."""
    named: Words = ""
    """What tells it from the others, where there are any: what the question would say if it were meant so."""
    others: tuple[Reading, ...] = Field(default=(), max_length=3)
    """Other ways in which the question can be meant, where nothing in it or in the notes decides."""

    def told(self) -> dict[str, Any]:
        """As it is kept and shown: what was left out is left out."""
        return self.model_dump(mode="json", by_alias=True, exclude_unset=True)

    def given(self) -> Reading:
        """The same as far as its columns go: what is made across groups is one figure for each of fewer of them."""
        if self.across is None:
            return self
        per = tuple(self.per[n] for n in self.across.per if n < len(self.per))
        made = Figure(figure=self.across.figure)
        return self.model_copy(update={"per": per, "figures": (made,), "keep": (), "each": None, "across": None})

    def evidenced(self) -> Reading | None:
        """The same list with the figures by which its rows were chosen: how many of them there are where "more than
        three" were asked for, how long it took where "longer than". None where it has none, or is no list.
        """
        chosen: list[Worth] = [c.worth for c in self.only if c.worth is not None]
        chosen += [
            Worth(of=Inner(rows=c.has, key=c.key, only=c.only, during=c.during)) for c in self.only
            if c.has is not None and (c.at_least is not None or c.at_most is not None)
        ]  # fmt: skip
        # How long ago it was, where that is what rows were chosen by: open for more than thirty days.
        chosen += [
            Worth(of="today", since=c.column) for c in self.only
            if c.column is not None and c.how in _BEFORE and not c.turned and any(map(_instant, c.values))
        ]  # fmt: skip
        if not chosen or not self.show or self.distinct or self.tally:
            return None
        return self.model_copy(update={"show": (*self.show, *chosen)})

    def asked_for(self, ranks: bool = False) -> frozenset[int]:
        """The columns of its statement that an answer must have: figures that are not there for another figure, or to
        say which groups are meant, only; with `ranks` the latter too.
        """
        if self.tally:
            return frozenset({0})
        if self.across is not None:
            return self.given().asked_for(ranks)
        used = {place for figure in self.figures for place in figure.between or ()}
        first = len(self.per)
        if first and not ranks:
            used |= self._choosing()
        found = {first + n for n in range(len(self.figures)) if n not in used}
        # Of a list what is worked out is asked for, but for what only says which few of its rows are meant: whoever
        # reads may name more columns than were asked for, and people see which are not there.
        ranked = {order.by for order in self.order} if self.top is not None and not ranks else set()
        return frozenset(found | {n for n, one in enumerate(self.show) if isinstance(one, Worth) and n not in ranked})

    def first_rows(self) -> Each | None:
        """The rows from which alone figures are worked out, where it is not the first groups that are given."""
        each = self.each
        if each is None or isinstance(each.by, int) or not self.figures:
            return None
        told = {per.column.removeprefix(f"{self.rows}.") for per in self.per}
        return None if each.by.removeprefix(f"{self.rows}.") in told else each

    def _choosing(self) -> set[int]:
        """The figures by which groups are chosen."""
        chosen = [order.by for order in self.order] if self.top is not None else []
        chosen += [kept.figure for kept in self.keep] + ([self.each.by] if self.each is not None else [])
        return {place for place in chosen if isinstance(place, int)}

    def conditions(self) -> Iterator[Condition]:
        """All of them, of figures and within others too."""
        yield from _within(self.only)
        for figure in self.figures:
            yield from _within(figure.only)
        for inner in self.inner():
            yield from _within(inner.only)

    def inner(self) -> Iterator[Inner]:
        """The figures over rows that point here, of figures and of what is shown."""
        for one in (*self.figures, *self.show):
            if isinstance(one, Worth):
                yield from _inner(one)

    def times(self) -> Iterator[Time]:
        """The same for times."""
        yield from self.during
        for one in self.inner():
            yield from one.during
        for figure in self.figures:
            yield from figure.during
        for condition in self.conditions():
            yield from condition.during
            yield from condition.than.during if condition.than is not None else ()
            for one in (*_inner(condition.worth), *_inner(condition.than)):
                yield from one.during

    def quoted(self) -> Iterator[str]:
        """The words of the question that its parts stand for."""
        parts: list[_Said] = [self, *self.figures, *self.conditions(), *self.times(), *self.per, *self.keep]
        parts += [*self.order, *self.inner(), *(shown for shown in self.show if isinstance(shown, Worth))]
        parts += [one for one in (self.each, self.across, *self._standards()) if one is not None]
        yield from (part.words for part in parts if part.words)

    def _standards(self) -> Iterator[Standard]:
        yield from (c.than for c in self.conditions() if c.than is not None)

    def narrowing(self) -> Iterator[str]:
        """The words of those parts that can say that something is not so: conditions, times, which groups there are."""
        parts: list[_Said] = [*self.conditions(), *self.times(), *self.keep, *(p for p in self.per if p.empty)]
        parts += [f for f in self.figures if f.only or f.during or f.figure == "distinct"]
        parts += [one for one in self.inner() if one.only or one.during]
        parts += [one for one in self._standards() if one.only or one.during]
        parts += [self] if self.empty or self.each is not None or self.distinct or self.tally else []
        yield from (part.words for part in parts if part.words)


def _instant(value: Plain) -> bool:
    """Whether it is a day or a time, as ISO 8601 writes it."""
    return isinstance(value, str) and re.match(r"\d{4}-\d\d-\d\d", value) is not None


def _inner(worth: Worth | None) -> Iterator[Inner]:
    """The figures over other rows in what a row is worth."""
    for term in (worth.of, worth.less, worth.times, worth.over) if worth is not None else ():
        if isinstance(term, Inner):
            yield term


def _within(conditions: tuple[Condition, ...]) -> Iterator[Condition]:
    for condition in conditions:
        yield condition
        yield from _within(condition.any)
        yield from _within(condition.only)
        yield from _within(condition.than.only if condition.than is not None else ())
        for inner in (*_inner(condition.worth), *_inner(condition.than)):
            yield from _within(inner.only)


for _form in (Condition, Inner, Worth, Standard, Figure, Kept, Reading):
    _form.model_rebuild()
