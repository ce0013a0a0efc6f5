"""Values of a reading as SQL: codes for meanings, numbers for digits, days that end with their last moment."""

from __future__ import annotations

import datetime as dt
import math
import re
from collections.abc import Callable
from typing import Final

from sqlglot import exp

from harquel.core.domain.catalog import Column
from harquel.core.domain.notes import ColumnNotes
from harquel.core.reading.paths import NoControl
from harquel.core.reading.value import Compared, Plain

_DAY: Final = re.compile(r"\d{4}-\d\d-\d\d\Z")
_CLOCK: Final = re.compile(r"([01]?[0-9]|2[0-4]):([0-5][0-9])(:00)?\Z")
_LARGEST: Final = 10**30
"""Whole numbers beyond what any column holds."""
TIMES: Final = frozenset({"temporal", "text", "other"})
NUMBERS: Final = frozenset({"number", "other"})
"""Kinds of columns that can hold such values: a file keeps times as texts, and a column of a view may have no type."""
_SIGNS: Final = {"less": exp.LT, "at most": exp.LTE, "more": exp.GT, "at least": exp.GTE}


def literal(value: Plain) -> exp.Expr:
    """A value as it stands in a statement. Raises NoControl."""
    if value is None:
        return exp.Null()
    if isinstance(value, bool):
        return exp.Boolean(this=value)
    if isinstance(value, int | float):
        if isinstance(value, int) and abs(value) > _LARGEST:
            raise NoControl("A number of the reading is too large for a database.")
        if not math.isfinite(value):
            raise NoControl("A number of the reading is not finite.")
        return exp.Neg(this=exp.Literal.number(-value)) if value < 0 else exp.Literal.number(value)
    return exp.Literal.string(value)


def moment(text: str) -> str:
    """An instant as our databases write it: the day alone at midnight. Raises NoControl."""
    try:
        at = dt.datetime.fromisoformat(text)
    except ValueError as error:
        raise NoControl(f"{text!r} is no time in ISO 8601.") from error
    if at.tzinfo is not None:
        raise NoControl(f"{text!r} names a zone; times stand without one.")
    return at.date().isoformat() if at.time() == dt.time() else at.isoformat(" ")


def clock(value: Plain) -> str:
    """A time of day as it is compared: hours and minutes. Raises NoControl."""
    found = _CLOCK.match(value) if isinstance(value, str) else None
    if found is None:
        raise NoControl(f"{str(value)[:60]!r} is no time of day, as in 07:30.")
    return f"{int(found[1]):02}:{found[2]}"


def of_day(column: Column) -> bool:
    """Whether a column of times holds days, without a time of day."""
    kind = column.type.upper()
    return kind.startswith("DATE") and not kind.startswith("DATETIME")


def equal_to(value: Plain, column: Column, about: ColumnNotes) -> Plain:
    """What of a column is meant by a value: the code for a meaning, the spelling that it holds, a number for digits."""
    if isinstance(value, str):
        folded = value.casefold()
        meant = about.code_of(value)
        if meant is not None and value not in about.codes:
            value = meant
        elif column.kind == "text":
            alike = [s for s in (*column.options, *column.samples) if isinstance(s, str) and s.casefold() == folded]
            value = alike[0] if alike and value not in alike else value
    if column.kind == "number" and isinstance(value, str):
        return _number(value)
    if column.kind == "boolean" and value in (0, 1, "true", "false"):
        return value in (1, "true")
    if column.kind == "text" and isinstance(value, int | float) and not isinstance(value, bool):
        return str(value)
    return value


def _number(text: str) -> int | float:
    try:
        return int(text) if re.fullmatch(r"-?\d{1,18}", text) else float(text[:40])
    except ValueError as error:
        raise NoControl(f"{text[:60]!r} is no number.") from error


def _as_it_is(text: str, column: Column) -> str:
    return text


def compared(
    node: exp.Expr, column: Column, how: Compared, values: tuple[Plain, ...],
    held: Callable[[str, Column], str] = _as_it_is,
) -> exp.Expr:  # fmt: skip
    """A column compared with values; `held` says how it holds a time that clocks show. Raises NoControl."""
    wanted = {"between": 2, "in": len(values)}.get(how, 1)
    if len(values) != wanted or not values or (None in values and how != "equal"):
        raise NoControl(f'"{how}" of {column.name} does not fit {len(values)} values.')
    if column.kind == "temporal":
        return _in_time(node, column, how, values, held)
    if how in ("in", "equal"):
        made = [literal(v) for v in values]
        return exp.In(this=node, expressions=made) if len(made) > 1 else exp.EQ(this=node, expression=made[0])
    if how == "between":
        return exp.Between(this=node, low=literal(values[0]), high=literal(values[1]))
    if how == "like":
        if not isinstance(values[0], str):
            raise NoControl("A pattern is a text.")
        return exp.Like(this=node, expression=literal(values[0]))
    return _SIGNS[how](this=node, expression=literal(values[0]))


def _in_time(
    node: exp.Expr, column: Column, how: Compared, values: tuple[Plain, ...], held: Callable[[str, Column], str]
) -> exp.Expr:
    """Days compared with times: a whole day is meant, up to its last moment."""
    ends = []
    for value in values:
        if not isinstance(value, str):
            raise NoControl(f"{column.name} holds times; {value!r} is none.")
        start = moment(value)
        whole = _DAY.match(start) is not None and not of_day(column)
        ends.append((start, _next_day(start) if whole else None))
    if how == "in":
        tests = [_in_time(node.copy(), column, "equal", (value,), held) for value in values]
        return exp.Paren(this=exp.or_(*tests)) if len(tests) > 1 else tests[0]
    if how == "like":
        raise NoControl(f"{column.name} holds times, which fit no pattern.")
    (first, after), (last, beyond) = ends[0], ends[-1]

    def test(kind: type[exp.Binary], text: str) -> exp.Expr:
        return kind(this=node.copy(), expression=literal(held(text, column)))

    if how in ("equal", "between"):
        if how == "equal" and after is None:
            return test(exp.EQ, first)
        return exp.and_(test(exp.GTE, first), test(exp.LT, beyond) if beyond else test(exp.LTE, last))
    if how == "at most" and after is not None:
        return test(exp.LT, after)
    if how == "more" and after is not None:
        return test(exp.GTE, after)
    return test(_SIGNS[how], first)


def _next_day(day: str) -> str:
    try:
        return (dt.date.fromisoformat(day) + dt.timedelta(days=1)).isoformat()
    except OverflowError as error:
        raise NoControl(f"No day comes after {day}.") from error
