"""From a reading to one statement, built by our own code: no model writes it.

Put in by us are what the notes say (rows that count, agreed measures, codes, by what a row is dated), half-open times,
empty values that are not equal to anything, fractions that are not cut off, and ways along keys that multiply nothing.
What it says runs nowhere by itself: like every statement it passes the guard with the rules of whoever asks.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from typing import Final

from sqlglot import exp

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.notes import Measure, Notes
from harquel.core.domain.statements import DraftedStatement
from harquel.core.reading.columns import named, names_of
from harquel.core.reading.folded import FOLDED, case, folded, only_of, ratio
from harquel.core.reading.paths import NoControl, Way, table_named, way_to
from harquel.core.reading.pieces import Place, all_of, column_of, divided, either, in_units
from harquel.core.reading.rows import FUNCTIONS, SIGNS, Rows
from harquel.core.reading.value import Across, Condition, Each, Figure, Kept, Order, Per, Reading, Worth
from harquel.core.sql import ParseFault, render
from harquel.core.sql.tree import identifier

_MOST_WEIGHT: Final = 60
"""Figures that a statement may repeat in all."""
_PLACE: Final = "place_within"
_MEAN: Final = "mean_of_all"
_END: Final = "from_end_"
_MANY: Final = "many_within"


def control(
    reading: Reading, catalog: Catalog, notes: Notes, engine: str, now: dt.datetime, beside: Sequence[str] = ()
) -> DraftedStatement:
    """The statement, in the engine's dialect, over a catalog of what may be seen. Raises NoControl.

    `now` is the instant that the question is about; `beside` names columns that it gives after what was asked for.
    """
    if reading.open:
        raise NoControl(f"The reading leaves something open: {reading.open[0]}")
    if bool(reading.figures) == bool(reading.show):
        raise NoControl("A reading has either figures or columns to show.")
    rows = Rows(reading.rows, Place(catalog, notes, engine, f"{now:%Y-%m-%d %H:%M:%S}"))
    try:
        return DraftedStatement(render(_Statement(rows, reading, beside).whole(), engine))
    except ParseFault as fault:
        raise NoControl(str(fault)) from fault


class _Statement:
    """The statement of a reading: what is worked out over its rows."""

    def __init__(self, rows: Rows, reading: Reading, beside: Sequence[str]) -> None:
        self.rows, self.reading, self.place, self.beside = rows, reading, rows.place, beside
        self.groups: list[exp.Expr] = []
        self._each = reading.each if reading.first_rows() is None else None
        """Which groups, or rows of a list, are given."""

    def whole(self) -> exp.Select:
        """All of it. Raises NoControl."""
        reading = self.reading
        asked = (*reading.only, *(c for figure in reading.figures for c in figure.only))
        self.rows.conditions(reading.only, reading.during, self._measure_of(reading), self.rows.touched(asked))
        self._defaults_of_others(reading, asked, agreed=self._measure_of(reading) is not None)
        if (each := reading.first_rows()) is not None:
            self.rows.where.append(self._among_the_first(each))
        groups = self.groups = [self._group(per) for per in reading.per]
        figures = self._figures(reading, groups)
        shown = self._shown()
        extra = self._extra()
        names = names_of(reading, len(extra), self.place.notes.known_units)
        made = [*groups, *figures, *shown, *extra]
        columns: list[exp.Expr] = [exp.alias_(node, identifier(n)) for node, n in zip(made, names, strict=True)]
        if any(figure.figure == "median" for figure in reading.figures):
            return self._median(columns)
        return self._finished(columns, figures, shown)

    def _finished(self, columns: list[exp.Expr], figures: list[exp.Expr], shown: list[exp.Expr]) -> exp.Select:
        """With what narrows, orders and cuts the rows or groups once they are there."""
        reading, groups = self.reading, self.groups
        crossed = reading.across is not None
        order = [] if crossed else [self._ordered(o, reading, figures or shown) for o in reading.order]
        bounds = [self._bound(kept, figures) for kept in reading.keep if kept.value is not None]
        select = self._selected(columns, groups, bounds, reading.distinct and bool(shown))
        if reading.across is not None:
            select, order = self._across(self._of_the_whole(select, figures), reading.across, columns)
        elif self._each is not None or reading.tally or reading.both or len(bounds) < len(reading.keep):
            select, order = self._of_the_whole(select, figures or shown), []
        if order:
            select.set("order", exp.Order(expressions=order))
        if reading.top is not None and not reading.both:
            select.set("limit", exp.Limit(expression=exp.Literal.number(reading.top)))
        return select

    def _shown(self) -> list[exp.Expr]:
        reading = self.reading
        for name in (s for s in reading.show if isinstance(s, str) and reading.distinct):
            self._leading_somewhere(name)
        return [self.rows.shown(s) if isinstance(s, str) else self._worth(s) for s in reading.show]

    def _selected(
        self, columns: list[exp.Expr], groups: list[exp.Expr], bounds: list[exp.Expr], distinct: bool
    ) -> exp.Select:
        select = self.rows.select(columns)
        if groups:
            select.set("group", exp.Group(expressions=[g.copy() for g in groups]))
        if bounds:
            select.set("having", exp.Having(this=all_of(bounds)))
        if distinct:
            select.set("distinct", exp.Distinct())
        return select

    def _median(self, columns: list[exp.Expr]) -> exp.Select:
        """What stands in the middle, or between the two in the middle: no engine of ours has a word that all have."""
        reading = self.reading
        beyond = reading.keep or reading.each or reading.order or reading.top is not None or reading.tally
        if len(reading.figures) > 1 or beyond or self.beside:
            raise NoControl("A median stands by itself, without an order.")
        value = columns[-1].this
        inside = {"partition_by": [g.copy() for g in self.groups]} if self.groups else {}
        order = exp.Order(expressions=[exp.Ordered(this=value.copy(), nulls_first=False)])
        place = exp.Window(this=exp.RowNumber(), order=order, **inside)
        many = exp.Window(this=exp.Count(this=value.copy()), **{k: [n.copy() for n in v] for k, v in inside.items()})
        self.rows.where.append(exp.Not(this=exp.Is(this=value.copy(), expression=exp.Null())))
        select = self.rows.select([*columns, exp.alias_(place, _PLACE), exp.alias_(many, _MANY)])
        *groups, name = [column.alias for column in columns]
        told = [exp.alias_(column_of("q", group), group) for group in groups]
        whole = exp.Select(expressions=[*told, exp.alias_(exp.Avg(this=column_of("q", name)), name)])
        whole.set("from_", exp.From(this=exp.Subquery(this=select, alias=exp.TableAlias(this=identifier("q")))))
        twice = exp.Mul(this=exp.Literal.number(2), expression=column_of("q", _PLACE))
        after = exp.Add(this=column_of("q", _MANY), expression=exp.Literal.number(2))
        whole.set("where", exp.Where(this=exp.Between(this=twice, low=column_of("q", _MANY), high=after)))
        if groups:
            whole.set("group", exp.Group(expressions=[column_of("q", group) for group in groups]))
        return whole

    def _extra(self) -> list[exp.Expr]:
        """What stands beside: of a group it is that of one of its rows."""
        if self.beside and (self.reading.distinct or self.reading.tally or self.reading.across):
            raise NoControl("Nothing can stand beside rows that are told apart by what is asked for.")
        columns = [self.rows.shown(name) for name in self.beside]
        return [exp.Min(this=column) for column in columns] if self.reading.figures else [*columns]

    def _of_the_whole(self, select: exp.Select, figures: list[exp.Expr]) -> exp.Select:
        """What only shows once all groups or rows are there: the first of each, those beyond the average, how many
        there are. In no order of its own.
        """
        names = [column.alias for column in select.expressions]
        tests: list[exp.Expr] = []
        for kept in (k for k in self.reading.keep if k.value is None):
            at = len(tests)
            mean = exp.Window(this=exp.Avg(this=self._plain_of(figures, kept.figure)), partition_by=self._within(kept))
            select.append("expressions", exp.alias_(mean, f"{_MEAN}{at}"))
            name = names[len(self.reading.per) + kept.figure]
            tests.append(SIGNS[kept.how](this=column_of("q", name), expression=column_of("q", f"{_MEAN}{at}")))
        if (each := self._each) is not None:
            first = self._ordered(Order(by=each.by, descending=each.descending), self.reading, figures)
            part = self._ordered(Order(by=each.per), self.reading, figures).this
            part = self.rows.in_unit(each.per, each.unit) if each.unit is not None else part
            place = exp.Window(this=exp.Rank(), partition_by=[part], order=exp.Order(expressions=[first]))
            select.append("expressions", exp.alias_(place, _PLACE))
            tests.append(exp.LTE(this=column_of("q", _PLACE), expression=exp.Literal.number(each.top)))
        if self.reading.both:
            tests.append(self._at_both_ends(select, figures))
        select.set("joins", [join for _, join in self.rows.joins.values()])
        shown: list[exp.Expr] = [column_of("q", name) for name in names]
        if self.reading.tally:
            shown = [exp.alias_(exp.Count(this=exp.Star()), "count")]
        whole = exp.Select(expressions=shown)
        whole.set("from_", exp.From(this=exp.Subquery(this=select, alias=exp.TableAlias(this=identifier("q")))))
        if tests:
            whole.set("where", exp.Where(this=all_of(tests)))
        return whole

    def _among_the_first(self, each: Each) -> exp.Expr:
        """Whether a row is one of the first of each, of those that count."""
        reading = self.reading
        keys = [column.name for column in self.rows.base.columns if column.primary_key]
        if len(keys) != 1:
            raise NoControl(f"No one column tells the rows of {self.rows.base.name} apart.")
        inner = Rows(reading.rows, self.place, "f", 1)
        asked = (*reading.only, *(c for figure in reading.figures for c in figure.only))
        inner.conditions(reading.only, reading.during, self._measure_of(reading), inner.touched(asked))
        part = inner.in_unit(each.per, each.unit) if each.unit is not None else inner.column(each.per)
        first = exp.Ordered(this=inner.column(str(each.by)), desc=each.descending, nulls_first=False)
        place = exp.Window(this=exp.Rank(), partition_by=[part], order=exp.Order(expressions=[first]))
        held = inner.select([column_of("f", keys[0]), exp.alias_(place, _PLACE)])
        found = exp.Select(expressions=[column_of("q", keys[0])])
        found.set("from_", exp.From(this=exp.Subquery(this=held, alias=exp.TableAlias(this=identifier("q")))))
        among = exp.LTE(this=column_of("q", _PLACE), expression=exp.Literal.number(each.top))
        found.set("where", exp.Where(this=among))
        return exp.In(this=column_of(self.rows.mark, keys[0]), query=exp.Subquery(this=found))

    def _at_both_ends(self, select: exp.Select, figures: list[exp.Expr]) -> exp.Expr:
        """Which of them are among the first from either end of the order."""
        reading = self.reading
        if not reading.order or reading.top is None or reading.tally or reading.distinct or reading.across is not None:
            raise NoControl("Both ends are those of an order, of so many rows or groups (top).")
        tests = []
        for end in range(2):
            orders = [o.model_copy(update={"descending": o.descending != bool(end)}) for o in reading.order]
            keys = [self._ordered(order, reading, figures) for order in orders]
            place = exp.Window(this=exp.Rank(), order=exp.Order(expressions=keys))
            select.append("expressions", exp.alias_(place, f"{_END}{end}"))
            tests.append(exp.LTE(this=column_of("q", f"{_END}{end}"), expression=exp.Literal.number(reading.top)))
        return exp.Paren(this=either(*tests))

    def _across(self, select: exp.Select, across: Across, columns: list[exp.Expr]) -> tuple[exp.Select, list[exp.Expr]]:
        """One figure of what the groups have, for each of fewer of them, and its order."""
        reading = self.reading
        first = len(reading.per)
        if across.of >= len(reading.figures) or not all(n < first for n in across.per) or reading.tally:
            raise NoControl("What is made across groups is of one of their figures, for some of what they are per.")
        names = [column.alias for column in columns]
        groups = [column_of("a", names[n]) for n in across.per]
        value = FUNCTIONS[across.figure](this=column_of("a", names[first + across.of]))
        shown = [exp.alias_(group, names[n]) for group, n in zip(groups, across.per, strict=True)]
        whole = exp.Select(expressions=[*shown, exp.alias_(value, f"{across.figure}_of_all")])
        whole.set("from_", exp.From(this=exp.Subquery(this=select, alias=exp.TableAlias(this=identifier("a")))))
        if groups:
            whole.set("group", exp.Group(expressions=[group.copy() for group in groups]))
        order: list[exp.Expr] = []
        for one in reading.order:
            places = [n for n in across.per if reading.per[n].column == one.by]
            if one.by != 0 and not places:
                raise NoControl("What is made across groups is ordered by itself, or by what it is given for.")
            node = column_of("a", names[places[0]]) if places else value.copy()
            order.append(exp.Ordered(this=node, desc=one.descending, nulls_first=False))
        return whole, order

    def _within(self, kept: Kept) -> list[exp.Expr] | None:
        return [self._ordered(Order(by=kept.within), self.reading, []).this] if kept.within is not None else None

    def _defaults_of_others(self, reading: Reading, asked: tuple[Condition, ...], agreed: bool) -> None:
        """What the notes ask of rows of other tables: those of which different ones are counted, and, where they say
        so, those by which the question tells rows apart. An agreed measure says itself which rows count.
        """
        if agreed:
            return
        names = [c.column for c in reading.only if c.column is not None]
        names += [per.column for per in reading.per] + [s for s in reading.show if isinstance(s, str)]
        keys = [f.of for f in reading.figures if f.figure == "distinct" and isinstance(f.of, str) and f.since is None]
        tests: dict[str, exp.Expr] = {}
        for name, key in [*((n, False) for n in names), *((n, True) for n in keys)]:
            way = way_to(name, self.rows.base, self.place.catalog)
            tests |= {test.sql(): test for test in self.rows.default_of(way, asked, key)}
        self.rows.where += tests.values()

    def _measure_of(self, reading: Reading) -> Measure | None:
        """The agreed measure that is asked for: its own rows count, and its own time dates them."""
        names = dict.fromkeys(named(f) for f in reading.figures if f.figure == "measure")
        if not names:
            return None
        if len(names) > 1 or any(f.figure not in {"measure", *FOLDED} for f in reading.figures):
            raise NoControl("Several measures, or a measure beside another figure, count different rows.")
        measure = self.place.notes.measures.get(next(iter(names)))
        if measure is None:
            raise NoControl(f'No measure is called "{next(iter(names))}".')
        if table_named(measure.of, self.place.catalog).name != self.rows.base.name:
            raise NoControl(f"That measure is of rows of {measure.of}, not of {self.rows.base.name}.")
        return measure

    def _figures(self, reading: Reading, groups: list[exp.Expr]) -> list[exp.Expr]:
        made: list[exp.Expr] = []
        weights: list[int] = []
        for figure in reading.figures:
            # One that is made of others repeats all that they are made of.
            apart = figure.figure not in FOLDED or figure.between is None
            weights.append(1 if apart else sum(weights[n] for n in figure.between or () if 0 <= n < len(weights)))
            if sum(weights) > _MOST_WEIGHT:
                raise NoControl("Figures of figures of figures are too much to work out.")
            made.append(self._figure(figure, made, groups))
        return made

    def _figure(self, figure: Figure, before: list[exp.Expr], groups: list[exp.Expr]) -> exp.Expr:
        if figure.figure in FOLDED:
            found = folded(figure, before, groups)
        else:
            test = self._narrowed(figure)
            found = self._share(test) if figure.figure == "share" else self._plain(figure, test)
        return divided(found, figure.divided)

    def _narrowed(self, figure: Figure) -> exp.Expr | None:
        measure = self.place.notes.measures.get(named(figure)) if figure.figure == "measure" else None
        tests = [self.rows.condition(c) for c in figure.only]
        dated = measure.when if measure is not None else None
        tests += [part for time in figure.during for part in self.rows.time(time, dated)]
        return all_of(tests) if tests else None

    def _share(self, test: exp.Expr | None) -> exp.Expr:
        if test is None:
            raise NoControl("A share needs to be told which rows it is of.")
        part = exp.Mul(this=exp.Literal.number("100.0"), expression=exp.Count(this=case(test, exp.Literal.number(1))))
        return ratio(part, exp.Count(this=exp.Star()))

    def _plain(self, figure: Figure, test: exp.Expr | None) -> exp.Expr:
        if figure.figure == "measure":
            agreed = self.rows.noted(self.place.notes.measures[named(figure)].sql)
            return exp.Paren(this=agreed if test is None else only_of(agreed, test))
        if figure.figure == "count":
            if figure.of is not None:
                raise NoControl("Rows are counted, not a column; the different values of one are distinct.")
            return exp.Count(this=case(test, exp.Literal.number(1)) if test is not None else exp.Star())
        if figure.of is None:
            raise NoControl(f"It is not said of which column the {figure.figure} is.")
        value = self.rows.worth(figure, figure.figure in ("sum", "average", "median"))
        held = case(test, value) if test is not None else value
        if figure.figure == "median":
            return held
        if figure.figure == "distinct":
            return exp.Count(this=exp.Distinct(expressions=[held]))
        return FUNCTIONS[figure.figure](this=held)

    def _worth(self, worth: Worth) -> exp.Expr:
        return divided(self.rows.worth(worth), worth.divided)

    def _leading_somewhere(self, name: str) -> None:
        """Only rows from which keys lead to that column: what is told apart is things, and none is no thing."""
        way = way_to(name, self.rows.base, self.place.catalog)
        # What the last of them leads to is there only where all before it lead somewhere.
        last = next((number for number, step in reversed([*enumerate(way.steps)]) if step.loose), None)
        if last is not None:
            loose = way.steps[last]
            held = column_of(self.rows.joined(Way(way.steps[:last], loose.table, way.column)), loose.key.columns[0])
            self.rows.where.append(exp.Not(this=exp.Is(this=held, expression=exp.Null())))

    def _group(self, per: Per) -> exp.Expr:
        node, _, column = self.rows.meant(per.column)
        if not per.empty:
            self._leading_somewhere(per.column)
        return self.place.shown(node, column) if per.unit is None else in_units(node, column, per.unit, self.place)

    def _ordered(self, order: Order, reading: Reading, figures: list[exp.Expr]) -> exp.Expr:
        if isinstance(order.by, int):
            if not 0 <= order.by < len(figures):
                raise NoControl(f"There is no figure {order.by} to order by.")
            node: exp.Expr = figures[order.by].copy()
        else:
            named = next((n for n, per in enumerate(reading.per) if per.column == order.by), None)
            if reading.figures and named is None:
                raise NoControl(f"Groups cannot be ordered by {order.by}, which they are not made of.")
            node = self.groups[named].copy() if named is not None else self.rows.column(order.by)
        return exp.Ordered(this=node, desc=order.descending, nulls_first=False)

    def _bound(self, kept: Kept, figures: list[exp.Expr]) -> exp.Expr:
        value = kept.value or 0.0
        number = exp.Literal.number(int(value) if value.is_integer() else value)
        return SIGNS[kept.how](this=self._plain_of(figures, kept.figure), expression=number)

    def _plain_of(self, figures: list[exp.Expr], place: int) -> exp.Expr:
        """A figure of each group, which is not made from the others'."""
        if place >= len(figures):
            raise NoControl(f"There is no figure {place} to keep groups by.")
        if figures[place].find(exp.Window):
            raise NoControl(f"Figure {place} is only known once all groups are there.")
        return figures[place].copy()
