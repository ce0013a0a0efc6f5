"""Conditions on times in a statement, as intervals."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from sqlglot import exp

from harquel.core.domain.catalog import Column
from harquel.core.review.calendar import is_temporal, is_year, moment, timed, whole_days
from harquel.core.review.periods import EARLIEST, LATEST, shifted
from harquel.core.review.statement import Level, Ref, Statement, arguments, called, plain

Spans = tuple[tuple[dt.datetime, dt.datetime], ...]
"""Intervals from, up to and not including, in order, without overlap."""

ALL: Final[Spans] = ((EARLIEST, LATEST),)
CLOCKS: Final = frozenset(
    "NOW CURDATE SYSDATE GETDATE LOCALTIME LOCALTIMESTAMP UTC_DATE UTC_TIMESTAMP CLOCK_TIMESTAMP "
    "STATEMENT_TIMESTAMP TRANSACTION_TIMESTAMP CURRENT_TIMESTAMP CURRENT_DATE".split()
)


def reads_clock(node: exp.Expr) -> bool:
    """Whether a node is the clock of the database."""
    if isinstance(node, exp.CurrentDate | exp.CurrentTimestamp | exp.CurrentTime | exp.CurrentDatetime):
        return True
    if called(node) in CLOCKS:
        return True
    if called(node) in ("DATE", "DATETIME", "STRFTIME", "JULIANDAY", "TIME", "UNIXEPOCH"):
        given = arguments(node)
        return not given or any(plain(a) == "now" for a in given)
    return False


# -- intervals -----------------------------------------------------------------------------------


def both(one: Spans, other: Spans) -> Spans:
    """What lies in both."""
    found = [(max(a, c), min(b, d)) for a, b in one for c, d in other if max(a, c) < min(b, d)]
    return tuple(sorted(found))


def either(one: Spans, other: Spans) -> Spans:
    """What lies in one of them, what touches joined."""
    merged: list[tuple[dt.datetime, dt.datetime]] = []
    for start, end in sorted((*one, *other)):
        if merged and start <= merged[-1][1]:
            merged[-1] = (merged[-1][0], max(merged[-1][1], end))
        else:
            merged.append((start, end))
    return tuple(merged)


def without(spans: Spans) -> Spans:
    """What lies outside."""
    found, at = [], EARLIEST
    for start, end in spans:
        if at < start:
            found.append((at, start))
        at = end
    return tuple([*found, (at, LATEST)] if at < LATEST else found)


def spans_of(node: exp.Expr, statement: Statement) -> Spans | None:
    """The times that a condition lets through; None where it says nothing about them."""
    while isinstance(node, exp.Paren):
        node = node.this
    if isinstance(node, exp.And | exp.Or):
        left, right = spans_of(node.this, statement), spans_of(node.expression, statement)
        if isinstance(node, exp.And):
            return right if left is None else left if right is None else both(left, right)
        return None if left is None or right is None else either(left, right)
    if isinstance(node, exp.Not):
        inner = spans_of(node.this, statement)
        return None if inner is None else without(inner)
    if isinstance(node, exp.Between):
        low = _compare(">=", node.this, node.args["low"], statement)
        high = _compare("<=", node.this, node.args["high"], statement)
        return None if low is None or high is None else both(low, high)
    if isinstance(node, exp.In) and node.expressions:
        each = [_compare("=", node.this, e, statement) for e in node.expressions]
        if any(e is None for e in each):
            return None
        found: Spans = ()
        for one in each:
            found = either(found, one or ())
        return found
    if isinstance(node, exp.Like):
        return _like(node, statement)
    op = _OPS.get(type(node))
    if op is None:
        return None
    return _compare(op, node.this, node.expression, statement) or _compare(
        _FLIPPED[op], node.expression, node.this, statement
    )


_OPS: Final[dict[type[exp.Expr], str]] = {
    exp.EQ: "=", exp.LT: "<", exp.LTE: "<=", exp.GT: ">", exp.GTE: ">=", exp.NEQ: "<>",
}  # fmt: skip
_FLIPPED: Final = {"=": "=", "<>": "<>", "<": ">", "<=": ">=", ">": "<", ">=": "<="}


def _like(node: exp.Expr, statement: Statement) -> Spans | None:
    found, pattern = timed(node.this, statement), plain(node.expression)
    if found is None or not isinstance(pattern, str) or not pattern.endswith("%"):
        return None
    text = pattern.rstrip("%").rstrip("-")
    start = moment(text) or moment(f"{text}-01")
    unit = {4: "year", 7: "month", 10: "day"}.get(len(text))
    return ((start, shifted(start, unit, 1)),) if start is not None and unit is not None else None


def _compare(op: str, left: exp.Expr, right: exp.Expr, statement: Statement) -> Spans | None:
    found = timed(left, statement)
    if found is None:
        return None
    if found.unit in ("", "day"):
        at = moment_of(right)
        if at is None:
            return None
        days = found.unit == "day" or whole_days(found.ref.column)
        return _moments(op, at, dt.timedelta(days=1) if days else dt.timedelta(seconds=1))
    value = plain(right)
    if found.unit == "month" and isinstance(value, str):
        start = moment(value if len(value) > 7 else f"{value}-01")
        return None if start is None else _stretch(op, start, shifted(start, "month", 1))
    if found.unit in ("quarter", "week", "year") and isinstance(value, str) and moment(value) is not None:
        start = moment(value)
        assert start is not None
        return _stretch(op, start, shifted(start, found.unit, 1))
    try:
        number = int(float(value)) if value is not None else None
    except ValueError:
        return None
    if number is None:
        return None
    if found.unit == "year" and 1 < number < 9998:
        return _stretch(op, dt.datetime(number, 1, 1), dt.datetime(number + 1, 1, 1))
    if found.unit in ("month of year", "quarter of year"):
        length = 1 if found.unit == "month of year" else 3
        return _every_year(_NUMBERS[op], number, length, found.ref.column)
    return None


def _moments(op: str, at: dt.datetime, grain: dt.timedelta) -> Spans:
    if op == "=":
        return ((at, at + grain),)
    if op == "<>":
        return without(((at, at + grain),))
    if op == "<":
        return ((EARLIEST, at),)
    if op == "<=":
        return ((EARLIEST, at + grain),)
    return ((at, LATEST),) if op == ">=" else ((at + grain, LATEST),)


def _stretch(op: str, start: dt.datetime, end: dt.datetime) -> Spans:
    if op == "=":
        return ((start, end),)
    if op == "<>":
        return without(((start, end),))
    return {"<": ((EARLIEST, start),), "<=": ((EARLIEST, end),), ">": ((end, LATEST),), ">=": ((start, LATEST),)}[op]


_NUMBERS: Final[dict[str, Callable[[int, int], bool]]] = {
    "=": int.__eq__, "<>": int.__ne__, "<": int.__lt__, "<=": int.__le__, ">": int.__gt__, ">=": int.__ge__,
}  # fmt: skip


def _every_year(holds: Callable[[int, int], bool], number: int, length: int, column: Column) -> Spans:
    """The months or quarters of each year that the column knows."""
    low, high = moment(column.low), moment(column.high)
    first, last = (low.year if low else 2000), (high.year if high else 2040)
    found: Spans = ()
    for year in range(first, min(last, first + 60) + 1):
        for part in range(1, 12 // length + 1):
            if holds(part, number):
                start = dt.datetime(year, length * (part - 1) + 1, 1)
                found = either(found, ((start, shifted(start, "month", length)),))
    return found


_MODIFIER: Final = re.compile(r"([+-]?\d+) (second|minute|hour|day|month|year)s?\Z")


def moment_of(node: exp.Expr) -> dt.datetime | None:
    """The moment that an expression of literals is: a text, DATE(text, '-30 days'), a text less an interval."""
    while isinstance(node, exp.Paren | exp.Cast):
        node = node.this
    if isinstance(node, exp.Literal):
        return moment(node.this) if node.is_string else None
    if called(node) in ("DATE", "DATETIME", "TIMESTAMP") and node.expressions:
        at = moment_of(node.expressions[0])
        for change in node.expressions[1:]:
            text = plain(change)
            match = _MODIFIER.match(text) if isinstance(text, str) else None
            if at is None:
                return None
            if match is not None:
                at = shifted(at, match.group(2), int(match.group(1)))
            elif text in ("start of month", "start of year", "start of day"):
                at = at.replace(hour=0, minute=0, second=0)
                at = at.replace(day=1) if text != "start of day" else at
                at = at.replace(month=1) if text == "start of year" else at
            else:
                return None
        return at
    if isinstance(node, exp.Add | exp.Sub) and isinstance(node.expression, exp.Interval):
        at, interval = moment_of(node.this), node.expression
        count = str(plain(interval.this) or "").removesuffix(".0")
        unit = str(interval.args["unit"].this).lower().rstrip("s") if interval.args.get("unit") else ""
        if at is None or not count.lstrip("-").isdigit() or not unit:
            return None
        try:
            return shifted(at, unit, int(count) if isinstance(node, exp.Add) else -int(count))
        except KeyError:
            return None
    return None


@dataclass(frozen=True)
class Window:
    """The times that one query, or one branch of a CASE in it, looks at, and the column that says so."""

    spans: Spans
    level: Level
    node: exp.Expr
    refs: tuple[Ref, ...]


def windows(statement: Statement) -> list[Window]:
    """Every limit on times: of queries, or of the CASE branches in them where those have limits of their own."""
    found = []
    for level in statement.levels:
        places = [level.select.args.get("where"), level.select.args.get("having")]
        places += [j.args.get("on") for j in level.select.args.get("joins") or ()]
        own: Spans | None = None
        nodes: list[exp.Expr] = []
        for place in places:
            test = place.this if isinstance(place, exp.Where | exp.Having) else place
            spans = spans_of(test, statement) if test is not None else None
            if spans is not None and test is not None:
                own = spans if own is None else both(own, spans)
                nodes.append(test)
        branches: list[Window] = []
        for case in {id(c.node): c for c in level.conditions if c.place == "case"}.values():
            test = _whole_test(case.node)
            spans = spans_of(test, statement)
            if spans is not None and not any(b.node is test for b in branches):
                both_of = spans if own is None else both(own, spans)
                branches.append(Window(both_of, level, test, _temporal_refs(test, statement)))
        if branches:
            found += branches
        elif own is not None:
            refs = tuple(r for n in nodes for r in _temporal_refs(n, statement))
            found.append(Window(own, level, nodes[0], refs))
    return found


def _whole_test(node: exp.Expr) -> exp.Expr:
    while isinstance(node.parent, exp.And | exp.Or | exp.Not | exp.Paren):
        node = node.parent
    return node


def _temporal_refs(node: exp.Expr, statement: Statement) -> tuple[Ref, ...]:
    return tuple({r.key: r for r in statement.refs(node) if is_temporal(r.column) or is_year(r.column)}.values())
