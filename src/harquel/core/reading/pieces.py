"""Pieces that queries of ours are put together from, and where they are put together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache, reduce
from typing import Final

from sqlglot import exp

from harquel.core.calendar import FISCAL
from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.notes import Notes
from harquel.core.reading.literals import TIMES, of_day
from harquel.core.reading.paths import NoControl
from harquel.core.sql import ParseFault, parse
from harquel.core.sql.dialects import DIALECTS
from harquel.core.sql.local_time import holds_utc, local, stored
from harquel.core.sql.tree import identifier

_FORMATS: Final = {"year": "%Y", "month": "%Y-%m", "day": "%Y-%m-%d"}


@dataclass(frozen=True)
class Place:
    """Where a reading is built: what may be seen, what the notes say of it, and the instant it is about."""

    catalog: Catalog
    notes: Notes
    engine: str
    now: str

    def shown(self, node: exp.Expr, column: Column) -> exp.Expr:
        """A column as people see it: its times as clocks show them."""
        return local(node, column, self.notes.calendar, self.engine) if column.kind in TIMES else node

    def timed(self, column: Column) -> Column:
        """A column as one of times where the notes say that its texts are such."""
        utc = column.kind != "temporal" and holds_utc(column, self.notes.calendar, self.engine)
        return replace(column, type="DATETIME") if utc else column

    def held(self, text: str, column: Column) -> str:
        """A time that clocks show, as a column holds it that it is compared with."""
        return stored(text, column, self.notes.calendar, self.engine)


def divided(value: exp.Expr, by: float) -> exp.Expr:
    """A value in another unit."""
    return exp.Div(this=exp.Paren(this=value), expression=exp.Literal.number(by)) if by != 1 else value


def column_of(alias: str, name: str) -> exp.Column:
    """A column of what an alias stands for."""
    return exp.column(identifier(name), identifier(alias))


def table_of(table: Table, alias: str) -> exp.Table:
    """A table as it stands in FROM."""
    schema = identifier(table.schema) if table.schema and table.name != table.plain else None
    return exp.Table(this=identifier(table.plain), db=schema, alias=exp.TableAlias(this=identifier(alias)))


def all_of(tests: Sequence[exp.Expr]) -> exp.Expr:
    """Tests of which each must hold; at least one."""
    return reduce(lambda one, other: exp.And(this=one, expression=other), tests)


def either(one: exp.Expr, other: exp.Expr) -> exp.Expr:
    """Tests of which one must hold."""
    return exp.Or(this=one, expression=other)


def parts_of(test: exp.Expr) -> list[exp.Expr]:
    """The tests that a test is made of, all of which must hold."""
    return (
        [part for half in (test.this, test.expression) for part in parts_of(half)]
        if isinstance(test, exp.And)
        else [test]
    )


def noted(text: str, engine: str) -> exp.Expr:
    """A condition or figure of the notes as it is written there. Raises NoControl."""
    try:
        (tree,) = _read(text, engine)
    except (ParseFault, ValueError) as fault:
        raise NoControl(f"The notes say {text!r}, which is no SQL: {fault}") from fault
    alone = isinstance(tree, exp.Select) and len(tree.expressions) == 1 and tree.args.get("from_") is None
    found: exp.Expr = tree.expressions[0] if alone else tree
    if not alone or found.find(exp.Query):
        raise NoControl(f"The notes say {text!r}, which looks into other queries.")
    return found.copy()


@lru_cache(maxsize=500)
def _read(text: str, engine: str) -> list[exp.Expr]:
    """The same pieces are wanted for question after question; whoever changes one takes a copy."""
    return parse(f"SELECT {text}", engine)


def written(text: str, engine: str, **names: exp.Expr) -> exp.Expr:
    """A piece of the engine's SQL in which names stand for parts."""
    (tree,) = _read(text, engine)

    def own(node: exp.Expr) -> exp.Expr:
        return names[node.name].copy() if isinstance(node, exp.Column) and node.name in names else node

    found: exp.Expr = tree.expressions[0].copy().transform(own)
    return found


def in_units(node: exp.Expr, column: Column, unit: str, place: Place) -> exp.Expr:
    """The unit of a time that a column holds: its month, its hour, as people reckon it. Raises NoControl."""
    if column.kind not in TIMES:
        raise NoControl(f"{column.name} holds no times.")
    if unit == "day" and of_day(column):
        return node
    engine, calendar = place.engine, place.notes.calendar
    # The database would take it for a text where a time is wanted.
    at = exp.cast(node, "timestamp") if engine == "postgresql" and column.kind == "text" else node
    at = local(at, column, calendar, engine)
    if unit in FISCAL:
        if calendar.fiscal_year is None:
            raise NoControl("The notes do not say when the fiscal year begins.")
        earlier = DIALECTS[engine].earlier.format(months=calendar.months_moved)
        at = written(earlier, engine, at=at) if calendar.months_moved else at
    if unit == "week":
        return written(DIALECTS[engine].week(calendar.first_weekday), engine, at=at)
    if unit not in _FORMATS:
        return written(DIALECTS[engine].parts[unit], engine, at=at)
    return exp.TimeToStr(this=at, format=exp.Literal.string(_FORMATS[unit]))
