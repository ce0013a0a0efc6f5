"""The rows of a table that a reading looks at: which of them count, and how the columns of others are reached."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from functools import reduce
from typing import Final

from sqlglot import exp

from harquel.core.domain.catalog import Column, Table
from harquel.core.domain.notes import ColumnNotes, Measure
from harquel.core.reading.lasted import lasted
from harquel.core.reading.literals import NUMBERS, TIMES, clock, compared, equal_to, literal, moment, of_day
from harquel.core.reading.paths import NoControl, Step, Way, pointing, table_named, way_to
from harquel.core.reading.pieces import (
    Place,
    all_of,
    column_of,
    divided,
    either,
    in_units,
    noted,
    parts_of,
    table_of,
    written,
)
from harquel.core.reading.value import Condition, Inner, Standard, Term, Time, Worth
from harquel.core.sql.dialects import DIALECTS
from harquel.core.sql.tree import identifier

SIGNS: Final = {"equal": exp.EQ, "less": exp.LT, "at most": exp.LTE, "more": exp.GT, "at least": exp.GTE}
FUNCTIONS: Final = {"sum": exp.Sum, "average": exp.Avg, "minimum": exp.Min, "maximum": exp.Max}
_DEEPEST: Final = 3
"""Conditions on rows that point here, within each other."""


_ALIKE: Final = "alike"
_HELD: Final = "held"


class Rows:
    """One query over the rows of a table. Every alias of it begins with `mark`."""

    def __init__(self, table: str, place: Place, mark: str = "t", within: int = 0) -> None:
        """Raises NoControl for a table that is not there."""
        self.place, self.mark, self.within = place, mark, within
        self.base = table_named(table, place.catalog)
        self.joins: dict[tuple[str, ...], tuple[str, exp.Join]] = {}
        self.where: list[exp.Expr] = []

    def select(self, columns: list[exp.Expr]) -> exp.Select:
        """The query over these rows, for some columns, without what comes after WHERE."""
        select = exp.Select(expressions=columns)
        select.set("from_", exp.From(this=table_of(self.base, self.mark)))
        select.set("joins", [join for _, join in self.joins.values()])
        if self.where:
            select.set("where", exp.Where(this=all_of(self.where)))
        return select

    def conditions(
        self, only: tuple[Condition, ...], during: tuple[Time, ...], measure: Measure | None,
        touched: frozenset[str],
    ) -> None:  # fmt: skip
        """Which rows count: as asked, and by the notes where the question does not speak of the same columns."""
        default = self.place.notes.of(self.base.name).default_filter if measure is None else measure.where
        if default:
            self.where += [part for part in parts_of(self.noted(default)) if not self._names(part) & touched]
        dated = measure.when if measure is not None and measure.when else None
        self.where += [self.condition(c) for c in only]
        self.where += [part for time in during for part in self.time(time, dated)]

    def _names(self, part: exp.Expr) -> set[str]:
        """The columns of this table in a condition, by the alias that it has here."""
        return {c.name.casefold() for c in part.find_all(exp.Column) if c.table == self.mark}

    def touched(self, asked: Iterable[Condition], table: str | None = None) -> frozenset[str]:
        """The columns of this table, or of another, that the question itself speaks of, folded."""
        found: set[str] = set()
        names = ("", self.base.name.casefold()) if table is None else (table.casefold(),)
        for condition in asked:
            found |= self.touched(condition.any, table)
            for name in (condition.column, condition.other):
                owner, _, column = (name or "").rpartition(".")
                if name is not None and owner.rpartition(">")[2].casefold() in names:
                    found.add(column.casefold())
        return frozenset(found)

    def default_of(self, way: Way, asked: Iterable[Condition], key: bool = False) -> list[exp.Expr]:
        """What the notes ask of the rows along a way; nothing where the question speaks of the same columns.

        `key`: what is looked at is the key that points there, and so stands for those rows.
        """
        steps = way.steps
        if key:
            further = [k for k in way.table.foreign_keys if k.columns == (way.column.name,)]
            steps = (*steps, *(Step(way.table, k) for k in further[:1]))
        found: list[exp.Expr] = []
        for number, step in enumerate(steps):
            table = table_named(step.key.table, self.place.catalog)
            noted = self.place.notes.of(table.name)
            counted = key and number >= len(way.steps)
            if noted.default_filter is not None and (counted or noted.default_filter_when_joined):
                alias = self.joined(Way(steps[: number + 1], table, table.columns[0]))
                found += self._under(alias, noted.default_filter, self.touched(asked, table.name))
        return found

    def _under(self, alias: str, text: str, touched: frozenset[str]) -> list[exp.Expr]:
        """A default filter of another table by the alias that it has here."""

        def own(node: exp.Expr) -> exp.Expr:
            return column_of(alias, node.name) if isinstance(node, exp.Column) else node

        parts = parts_of(noted(text, self.place.engine))
        return [p.transform(own) for p in parts if not {c.name.casefold() for c in p.find_all(exp.Column)} & touched]

    def column(self, name: str) -> exp.Column:
        """A column by its name in the reading; what leads there is joined."""
        way = way_to(name, self.base, self.place.catalog)
        return exp.column(identifier(way.column.name), identifier(self.joined(way)))

    def meant(self, name: str) -> tuple[exp.Column, Table, Column]:
        """The same with what it means. What lies behind a key that may point at nothing may be nothing, too."""
        way = way_to(name, self.base, self.place.catalog)
        loose = any(step.loose for step in way.steps)
        return self.column(name), way.table, replace(way.column, nullable=True) if loose else way.column

    def shown(self, name: str) -> exp.Expr:
        """A column as people see it."""
        node, _, column = self.meant(name)
        return self.place.shown(node, column)

    def joined(self, way: Way) -> str:
        """The alias at the end of a way, whose tables are joined once."""
        trail: tuple[str, ...] = ()
        alias, loose = self.mark, False
        for step in way.steps:
            loose = loose or step.loose
            trail = (*trail, step.table.name, *step.key.columns, step.key.table)
            if trail not in self.joins:
                new = f"{self.mark}{len(self.joins) + 1}"
                target = table_named(step.key.table, self.place.catalog)
                on = [
                    exp.EQ(this=column_of(new, there), expression=column_of(alias, here))
                    for here, there in zip(step.key.columns, step.key.references, strict=True)
                ]
                join = exp.Join(this=table_of(target, new), on=all_of(on), side="LEFT" if loose else None)
                self.joins[trail] = (new, join)
            alias = self.joins[trail][0]
        return alias

    def noted(self, text: str) -> exp.Expr:
        """A condition or figure of the notes, in whose SQL columns are named by their tables."""

        def own(node: exp.Expr) -> exp.Expr:
            if isinstance(node, exp.Column):
                return self.column(f"{node.table}.{node.name}" if node.table else node.name)
            return node

        return noted(text, self.place.engine).transform(own)

    def written(self, text: str, **names: exp.Expr) -> exp.Expr:
        """A piece of the engine's SQL in which names stand for parts."""
        return written(text, self.place.engine, **names)

    def condition(self, given: Condition) -> exp.Expr:
        """One condition, as a test that is true or false."""
        kinds = [bool(given.any), given.has is not None, given.column is not None, given.worth is not None]
        if sum(kinds) != 1:
            raise NoControl("A condition is on a column, a worth, rows that point here (has), or one of several (any).")
        if given.any:
            found: exp.Expr = exp.Paren(this=reduce(either, map(self.condition, given.any)))
            if given.turned:
                # What is empty meets none of them, and so belongs to what does not.
                none = exp.Case(ifs=[exp.If(this=found, true=exp.Literal.number(0))], default=exp.Literal.number(1))
                return exp.EQ(this=none, expression=exp.Literal.number(1))
        elif given.has is not None:
            return self._has(given)
        elif given.worth is not None:
            found = self._on_worth(given.worth, given)
        else:
            found = self._on_column(given)
        return exp.Not(this=exp.Paren(this=found)) if given.turned else found

    def _on_column(self, given: Condition) -> exp.Expr:
        assert given.column is not None
        node, table, column = self.meant(given.column)
        empty = exp.Is(this=node.copy(), expression=exp.Null())
        if given.how == "empty" or (given.how == "equal" and given.values == (None,) and given.other is None):
            return empty
        if given.other is not None:
            if given.how not in SIGNS or given.values:
                raise NoControl("Columns are compared with equal, less, at most, more or at least.")
            other, _, against = self.meant(given.other)
            here, there = self._alike(node, column, other, against)
            found: exp.Expr = SIGNS[given.how](this=here, expression=there)
            nobody = exp.Is(this=other.copy(), expression=exp.Null())
            # Who is nobody is not somebody else.
            return either(found, either(empty, nobody)) if given.turned else found
        if given.than is not None:
            found = self._held_against(node, given, given.than)
            return exp.and_(found, exp.Not(this=empty)) if given.turned and column.nullable else found
        about = self.place.notes.of(table.name).columns.get(column.name, ColumnNotes())
        values = tuple(equal_to(v, column, about) for v in given.values)
        if given.unit is not None:
            if column.kind not in TIMES:
                raise NoControl(f"{given.column} holds no times.")
            part = self.written(DIALECTS[self.place.engine].parts[given.unit], at=self.place.shown(node, column))
            of_clock = given.unit == "clock"
            sought = tuple(map(clock, given.values)) if of_clock else given.values
            found = compared(part, replace(column, type="TEXT" if of_clock else "INTEGER"), given.how, sought)
        else:
            found = compared(node, self.place.timed(column), given.how, values, self.place.held)
        # What is empty is not equal to anything, and so belongs to what is not.
        return exp.and_(found, exp.Not(this=empty)) if given.turned and column.nullable else found

    def _held_against(self, value: exp.Expr, given: Condition, than: Standard) -> exp.Expr:
        """A value held against one figure by itself."""
        if given.how not in SIGNS or given.values or given.unit is not None:
            raise NoControl("A figure by itself is compared with equal, less, at most, more or at least.")
        return SIGNS[given.how](this=value, expression=self._standard(than))

    def _standard(self, given: Standard) -> exp.Expr:
        inner = self._inside(given.rows, "s")
        inner.conditions(given.only, given.during, None, inner.touched(given.only))
        if given.figure == "count":
            figure: exp.Expr = exp.Count(this=exp.Star())
        else:
            value = inner.worth(given, given.figure in ("sum", "average"))
            figure = exp.Count(this=exp.Distinct(expressions=[value])) if given.figure == "distinct" else divided(
                FUNCTIONS[given.figure](this=value), given.divided
            )  # fmt: skip
        if given.within is None:
            return exp.Paren(this=inner.select([figure]))
        held: exp.Expr = column_of(self._of_each(inner, figure, given.within), _HELD)
        if given.figure in ("count", "distinct"):
            held = exp.Coalesce(this=held, expressions=[exp.Literal.number(0)])
        return held

    def _of_each(self, inner: Rows, figure: exp.Expr, column: str) -> str:
        """The alias of a figure over other rows for each value of a column, beside the rows that have it here.

        Made once for all values: asked for again for each row it would take a large table minutes.
        """
        here, there = self.column(column), inner.column(column)
        query = inner.select([exp.alias_(there.copy(), _ALIKE), exp.alias_(figure, _HELD)])
        query.set("group", exp.Group(expressions=[there]))
        alias = f"{self.mark}{len(self.joins) + 1}"
        made = exp.Subquery(this=query, alias=exp.TableAlias(this=identifier(alias)))
        join = exp.Join(this=made, on=exp.EQ(this=column_of(alias, _ALIKE), expression=here), side="LEFT")
        self.joins["", alias] = alias, join
        return alias

    def _on_worth(self, worth: Worth, given: Condition) -> exp.Expr:
        if given.than is not None:
            value = self.worth(worth, numbers=worth.since is None)
            return self._held_against(divided(value, worth.divided), given, given.than)
        if not all(isinstance(v, int | float) for v in given.values) or given.how in ("like", "empty"):
            raise NoControl("What a row is worth is compared with numbers.")
        value = divided(self.worth(worth, numbers=worth.since is None), worth.divided)
        return compared(value, Column("worth", "NUMERIC", nullable=True), given.how, given.values)

    def _alike(self, one: exp.Expr, is_: Column, other: exp.Expr, of: Column) -> tuple[exp.Expr, exp.Expr]:
        """A time and a day beside each other: compared by the day."""
        if is_.kind != "temporal" or of.kind != "temporal" or of_day(is_) == of_day(of):
            return one, other
        day = DIALECTS[self.place.engine].parts["day"]
        at = self.place.shown(other, of) if of_day(is_) else self.place.shown(one, is_)
        return (one, self.written(day, at=at)) if of_day(is_) else (self.written(day, at=at), other)

    def _has(self, given: Condition) -> exp.Expr:
        assert given.has is not None
        if given.same is not None:
            return self._has_in_time(given, given.has, given.same)
        inner = self._pointing(given.has, given.key)
        inner.conditions(given.only, given.during, None, inner.touched(given.only))
        if given.at_least is None and given.at_most is None:
            if given.different is not None:
                raise NoControl("Different ones are counted: at least or at most how many?")
            found: exp.Expr = exp.Exists(this=inner.select([exp.Literal.number(1)]))
            return exp.Not(this=found) if given.turned else found
        kinds = [exp.Distinct(expressions=[inner.column(n)]) for n in (given.different,) if n is not None]
        count = exp.Paren(this=inner.select([exp.Count(this=kinds[0] if kinds else exp.Star())]))
        bounds = [(exp.GTE, given.at_least), (exp.LTE, given.at_most)]
        tests = [sign(this=count.copy(), expression=exp.Literal.number(n)) for sign, n in bounds if n is not None]
        return exp.Not(this=exp.Paren(this=all_of(tests))) if given.turned else all_of(tests)

    def _has_in_time(self, given: Condition, table: str, unit: str) -> exp.Expr:
        """Whether rows of a table are dated in the same unit of time; all such units are looked up once."""
        if given.key is not None or any(n is not None for n in (given.at_least, given.at_most, given.different)):
            raise NoControl("Rows of the same time are there or not; they are not counted, and point here by no key.")
        inner = self._inside(table, "y")
        inner.conditions(given.only, given.during, None, inner.touched(given.only))
        here, there = (rows.in_unit(None, unit) for rows in (self, inner))
        inner.where.append(exp.Not(this=exp.Is(this=there.copy(), expression=exp.Null())))
        held = exp.In(this=here, query=exp.Subquery(this=inner.select([there])))
        nobody = exp.Is(this=here.copy(), expression=exp.Null())
        return exp.And(this=exp.Not(this=held), expression=exp.Not(this=nobody)) if given.turned else held

    def in_unit(self, name: str | None, unit: str) -> exp.Expr:
        """The unit of a time; without a name, of the one that dates these rows. Raises NoControl."""
        node, _, column = self.meant(name or self._dated())
        return in_units(node, column, unit, self.place)

    def _inside(self, table: str, mark: str) -> Rows:
        """Rows of a table in a query within this one."""
        if self.within >= _DEEPEST:
            raise NoControl(f"Conditions on other rows are nested more than {_DEEPEST} deep.")
        return Rows(table, self.place, f"{self.mark}{mark}{self.within}", self.within + 1)

    def _pointing(self, table: str, key: str | None) -> Rows:
        """The rows of a table that point at one of these."""
        inner = self._inside(table, "x")
        steps = pointing(inner.base, self.base, key, self.place.catalog)
        last = steps[-1]
        alias = inner.joined(Way(steps[:-1], last.table, self.base.columns[0]))
        inner.where = [
            exp.EQ(this=column_of(alias, here), expression=column_of(self.mark, there))
            for here, there in zip(last.key.columns, last.key.references, strict=True)
        ]
        return inner

    def worth(self, worth: Worth, numbers: bool = False) -> exp.Expr:
        """What a row is worth; `numbers` where it goes into a sum. Raises NoControl."""
        if worth.of is None:
            raise NoControl("It is not said of which column.")
        if worth.since is not None:
            if isinstance(worth.of, Inner):
                raise NoControl("How long it took is from one time of a row to another.")
            return lasted(self, worth.since, worth.of, worth.unit)
        several = any(term is not None for term in (worth.less, worth.times, worth.over))
        value = self._term(worth.of, numbers or several)
        if worth.less is not None:
            value = exp.Paren(this=exp.Sub(this=value, expression=self._term(worth.less, True)))
        if worth.times is not None:
            value = exp.Mul(this=value, expression=self._term(worth.times, True))
        if worth.over is not None:
            whole = exp.Nullif(this=self._term(worth.over, True), expression=exp.Literal.number(0))
            value = exp.Div(this=exp.Mul(this=exp.Literal.number("1.0"), expression=value), expression=whole)
        return value

    def _term(self, term: Term, numbers: bool) -> exp.Expr:
        if isinstance(term, Inner):
            return self._figure_of(term)
        node, _, column = self.meant(term)
        if numbers and column.kind not in NUMBERS:
            raise NoControl(f"{term} holds no numbers.")
        return self.place.shown(node, column)

    def _figure_of(self, given: Inner) -> exp.Expr:
        """A figure over rows that point at one of these, as a query of its own."""
        inner = self._pointing(given.rows, given.key)
        measure = self.place.notes.measures.get(given.of or "") if given.figure == "measure" else None
        if given.figure == "measure" and (measure is None or measure.of.casefold() != inner.base.name.casefold()):
            raise NoControl(f'No measure of rows of {inner.base.name} is called "{given.of}".')
        inner.conditions(given.only, given.during, measure, inner.touched(given.only))
        if measure is not None:
            return exp.Paren(this=inner.select([inner.noted(measure.sql)]))
        if given.figure == "count":
            return exp.Paren(this=inner.select([exp.Count(this=exp.Star())]))
        if given.of is None:
            raise NoControl(f"It is not said of which column the {given.figure} is.")
        if given.figure == "distinct":
            counted = exp.Count(this=exp.Distinct(expressions=[inner.column(given.of)]))
            return exp.Paren(this=inner.select([counted]))
        value = inner.worth(Worth(of=given.of, times=given.times), given.figure in ("sum", "average"))
        found: exp.Expr = FUNCTIONS[given.figure](this=value)
        if given.figure == "sum":
            found = exp.Coalesce(this=found, expressions=[exp.Literal.number(0)])
        return exp.Paren(this=inner.select([found]))

    def time(self, given: Time, dated: str | None = None) -> list[exp.Expr]:
        """From an instant up to, not including, another, as conditions."""
        name = given.column or dated or self._dated()
        node, _, column = self.meant(name)
        if column.kind not in TIMES:
            raise NoControl(f"{name} holds no times.")
        ends = [(exp.GTE, given.since), (exp.LT, given.until)]
        return [
            sign(this=node.copy(), expression=literal(self.place.held(moment(end), column)))
            for sign, end in ends if end is not None
        ]  # fmt: skip

    def _dated(self) -> str:
        noted = self.place.notes.of(self.base.name).when
        times = [c.name for c in self.base.columns if c.kind == "temporal"]
        if noted is None and len(times) != 1:
            raise NoControl(f"Nothing says by which time rows of {self.base.name} are dated.")
        return noted if noted is not None and "." in noted else f"{self.base.name}.{noted or times[0]}"
