"""Times as clocks show them where people are, of columns that hold UTC: as SQL, and taken out of it again.

Which columns do follows from their types and from what the notes say (`Calendar.stored`). Converted is by the database,
with the zones that it knows itself; literals that a bare column is compared with are converted instead of the column,
so that its index serves.
"""

from __future__ import annotations

import datetime as dt
import re
from typing import Final

from sqlglot import exp

from harquel.core.calendar import Calendar
from harquel.core.domain.catalog import Catalog, Column
from harquel.core.sql.names import resolve

_TEXTS: Final = frozenset({"text", "other"})
_INSTANT: Final = re.compile(r"\d{4}-\d\d-\d\d[T ]\d\d:\d\d")
_LITERAL: Final = re.compile(r"\d{4}-\d\d-\d\d([T ]\d\d:\d\d(:\d\d(\.\d{1,6})?)?)?\Z")
_COMPARED: Final = (exp.GT, exp.GTE, exp.LT, exp.LTE, exp.EQ, exp.NEQ)
_BRACKETS: Final = re.compile(r"[()\s]")


def holds_utc(column: Column, calendar: Calendar, engine: str) -> bool:
    """Whether its times are not those that clocks show where people are, but those of UTC."""
    if calendar.zone == "UTC":
        return False
    kind = column.type.upper()
    if _of_an_instant(kind, engine):
        return True
    if calendar.stored != "utc" or re.match(r"DATE\b(?!TIME)|TIME\b(?!STAMP)|YEAR\b", kind):
        return False
    known = column.low if column.low is not None else next(iter(column.samples), None)
    if column.kind in _TEXTS:
        return isinstance(known, str) and _INSTANT.match(known) is not None
    # A file may keep days in a column that is called a time.
    return column.kind == "temporal" and not (isinstance(known, str) and len(known) == len("2026-08-01"))


def _of_an_instant(kind: str, engine: str) -> bool:
    """Whether the engine itself keeps such a column as an instant; our sessions are in UTC."""
    if engine == "postgresql":
        return kind.startswith("TIMESTAMP") and ("WITH TIME ZONE" in kind or kind.startswith("TIMESTAMPTZ"))
    return engine == "mariadb" and kind.startswith("TIMESTAMP")


def local(node: exp.Expr, column: Column, calendar: Calendar, engine: str) -> exp.Expr:
    """A column as clocks show it where people are; itself where it does not hold UTC."""
    if not holds_utc(column, calendar, engine):
        return node
    if engine == "sqlite":
        return exp.Anonymous(this="DATETIME", expressions=[node, exp.Literal.string("localtime")])
    zone = exp.Literal.string(calendar.zone)
    if engine == "mariadb":
        return exp.Anonymous(this="CONVERT_TZ", expressions=[node, exp.Literal.string("UTC"), zone])
    if not _of_an_instant(column.type.upper(), engine):
        node = exp.Paren(this=exp.AtTimeZone(this=node, zone=exp.Literal.string("UTC")))
    return exp.Paren(this=exp.AtTimeZone(this=node, zone=zone))


def converted(name: str, column: Column, calendar: Calendar, engine: str) -> str:
    """The local time of a column as a model is to write it."""
    if engine == "sqlite":
        return f"datetime({name}, 'localtime')"
    if engine == "mariadb":
        return f"CONVERT_TZ({name}, 'UTC', '{calendar.zone}')"
    at = name if _of_an_instant(column.type.upper(), engine) else f"({name} AT TIME ZONE 'UTC')"
    return f"({at} AT TIME ZONE '{calendar.zone}')"


def stored(text: str, column: Column, calendar: Calendar, engine: str) -> str:
    """A time that clocks show where people are, as the column that it is compared with holds it."""
    if not holds_utc(column, calendar, engine):
        return text
    return _written(calendar.to_utc(dt.datetime.fromisoformat(text)))


def _written(at: dt.datetime) -> str:
    return at.isoformat(" ")


def as_people_see_it(tree: exp.Expr, catalog: Catalog, calendar: Calendar) -> exp.Expr:
    """A statement as if the database held what clocks show: without conversions, its literals in local time.

    The very same tree where there is nothing to take out. For reading and reviewing it: it is not what runs.
    """
    if calendar.zone == "UTC":
        return tree
    utc = _columns(tree, catalog, calendar)
    if not utc:
        return tree
    # By their order in the tree, which is that of a copy.
    places = [(n, utc[id(node)]) for n, node in enumerate(tree.find_all(exp.Column)) if id(node) in utc]
    copy = tree.copy()
    columns = list(copy.find_all(exp.Column))
    for node, column in [(columns[n], column) for n, column in places]:
        outer = _unconverted(node, local(node.copy(), column, calendar, catalog.engine))
        if outer is node:
            _shift_literals(node, calendar)
        else:
            copy = node if outer is copy else copy
            outer.replace(node.copy())
    return copy


def _columns(tree: exp.Expr, catalog: Catalog, calendar: Calendar) -> dict[int, Column]:
    return {
        id(node): column
        for node, column, _ in resolve(tree, catalog).columns
        if holds_utc(column, calendar, catalog.engine)
    }  # fmt: skip


def _unconverted(node: exp.Expr, whole: exp.Expr) -> exp.Expr:
    """All that stands around a column where that is the `whole` conversion into local time; otherwise itself: half of
    one, or another one, is no local time, and is read as it is written.
    """
    outer, wanted = node, _bare(whole)
    while isinstance(outer.parent, exp.Paren | exp.AtTimeZone | exp.Anonymous):
        outer = outer.parent
        if _bare(outer) == wanted:
            return outer.parent if isinstance(outer.parent, exp.Paren) else outer
    return node


def _bare(node: exp.Expr) -> str:
    """As it is written, whatever the case, without brackets and blanks."""
    return _BRACKETS.sub("", node.sql().casefold())


def _shift_literals(node: exp.Expr, calendar: Calendar) -> None:
    """What a bare column is compared with, in local time."""
    parent = node.parent
    while isinstance(parent, exp.Paren):
        parent = parent.parent
    if isinstance(parent, exp.Between):
        others = [parent.args["low"], parent.args["high"]]
    elif isinstance(parent, _COMPARED):
        others = [side for side in (parent.this, parent.expression) if side.find(exp.Column) is None]
    else:
        return
    for other in others:
        _shift(other, calendar)


def _shift(node: exp.Expr, calendar: Calendar) -> None:
    for literal in [node] if isinstance(node, exp.Literal) else list(node.find_all(exp.Literal)):
        if literal.is_string and _LITERAL.match(literal.name):
            at = calendar.from_utc(dt.datetime.fromisoformat(literal.name))
            text = at.date().isoformat() if at.time() == dt.time() else _written(at)
            literal.set("this", text)
