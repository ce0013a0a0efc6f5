"""A statement in lines, a part on each: what is counted, which rows only, what the notes leave out, per what, in order.

As complete as the sentences: what has no line of its own stands in one as it is written. Joins along keys are one quiet
phrase; others are told with what they match on.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Sequence
from typing import Final

from sqlglot import exp

from harquel.core.answers.phrases import Language
from harquel.core.domain.catalog import Table
from harquel.core.domain.notes import Notes
from harquel.core.domain.understood import ReadLine
from harquel.core.language import pack
from harquel.core.language.say import say
from harquel.core.language.when import period
from harquel.core.review.calendar import is_temporal
from harquel.core.review.known import Known, conditions_in, known_of, measure_conditions
from harquel.core.review.statement import Condition, Statement, plain

from .queries import SAID, Queries
from .saying import written

_DAY: Final = 10
"""Characters of a day."""


def lines_of(
    statement: Statement, notes: Notes, now: dt.datetime, measures: Sequence[str], language: Language = "en"
) -> list[ReadLine]:
    """The lines. `measures` are the agreed ones that its figures rest on."""
    return list(_Lines(statement, notes, now, measures, language).lines())


class _Lines(Queries):
    def __init__(
        self, statement: Statement, notes: Notes, now: dt.datetime, measures: Sequence[str], language: Language
    ) -> None:
        super().__init__(statement, notes, language)
        self.now, self.language = now, language
        self.letters: dict[int, str] = {}
        self.by_node = {id(c.node): c for c in statement.outer.conditions} if statement.levels else {}
        self.noted = frozenset(_of_the_notes(statement, notes, measures))

    def lines(self) -> Iterator[ReadLine]:
        tree = self.statement.tree
        if not isinstance(tree, exp.Select) or tree.args.get("with_") is not None:
            yield self.line("does", self.read())
            return
        yield from self.parts(tree)
        told = 0
        while told < len(self.inner):
            name, node = self.inner[told]
            told += 1
            yield ReadLine(name, self.query(node))

    def letter(self, node: exp.Expr) -> str:
        """The same each time that a query is come across."""
        if id(node) not in self.letters:
            self.letters[id(node)] = super().letter(node)
        return self.letters[id(node)]

    def bare(self, text: str) -> str:
        first, _, rest = text.partition(" ")
        return rest if rest and first in pack(self.language).articles else text

    def line(self, kind: str, text: str) -> ReadLine:
        return ReadLine(say(self.language, f"line-{kind}"), text)

    def parts(self, node: exp.Select) -> Iterator[ReadLine]:
        yield from self.given(node)
        where, having = node.args.get("where"), node.args.get("having")
        if where is not None:
            yield from self.rows(where.this)
        group = node.args.get("group")
        if group is not None and group.expressions:
            yield self.line("per", self.listed(self.bare(self.grouped(g, node)) for g in group.expressions))
        if having is not None:
            yield self.line("kept", self.condition(having.this))
        if node.args.get("distinct") is not None:
            yield self.line("once", say(self.language, "equal-rows"))
        yield from self.ends(node)
        for one in _unsaid(node):
            yield self.line("as-written", written(one))

    def given(self, node: exp.Select) -> Iterator[ReadLine]:
        """What is counted or shown, and of what."""
        counted = self.counted(node)
        if counted is not None:
            yield self.line("counted", counted)
        else:
            yield self.line("shown", self.listed(self.projection(p) for p in self.figures(node) or node.expressions))
        if node.args.get("from_") is not None and (counted is None or node.args.get("joins")):
            yield self.line("from", self.sources(node))

    def figures(self, node: exp.Select) -> list[exp.Expr]:
        """The columns that are not what one row is given for each of."""
        group = node.args.get("group")
        by = {self.grouped(g, node) for g in group.expressions} if group is not None else set()
        return [p for p in node.expressions if self.value(p.unalias()) not in by]

    def counted(self, node: exp.Select) -> str | None:
        """Whose rows are counted, where that is all that is worked out."""
        bare = [p.unalias() for p in self.figures(node)]
        source = node.args["from_"].this if node.args.get("from_") is not None else None
        alone = len(bare) == 1 and isinstance(bare[0], exp.Count) and isinstance(bare[0].this, exp.Star)
        return self.source(source) if alone and isinstance(source, exp.Table) else None

    def sources(self, node: exp.Select) -> str:
        joins = node.args.get("joins") or []
        keyed = bool(joins) and all(self.along_keys(join) for join in joins)
        if not keyed:
            return self.tables(node)
        named = self.listed(self.source(s.this) for s in (node.args["from_"], *joins))
        return say(self.language, "along-keys", tables=named)

    def along_keys(self, join: exp.Expr) -> bool:
        """Whether a join only follows keys that the catalog knows, and loses no row to a side."""
        on, joined = join.args.get("on"), self.statement.tables.get(id(join.this))
        if joined is None or sum(t is joined for _, t in self.statement.names.tables) > 1:
            return False
        if on is None or join.args.get("side") or str(join.args.get("kind") or "INNER").upper() != "INNER":
            return False
        pairs = []
        for test in on.flatten() if isinstance(on, exp.And) else [on]:
            one, other = (self.statement.ref(side) for side in (test.this, test.args.get("expression")))
            if not isinstance(test, exp.EQ) or one is None or other is None:
                return False
            pairs.append((one.key, other.key))
        here, there = pairs[0]
        if joined.name not in (here[0], there[0]):
            return False  # it is tied to nothing, whatever else is
        return any(
            _is_key(a, b, [(o, t) if o[0] == a.name else (t, o) for o, t in pairs])
            for name, to in ((here[0], there[0]), (there[0], here[0]))
            if (a := self.statement.catalog.table(name)) is not None
            and (b := self.statement.catalog.table(to)) is not None
        )

    def rows(self, where: exp.Expr) -> Iterator[ReadLine]:
        """Which rows only, and which by the notes."""
        tests = [t.unnest() for t in where.flatten()] if isinstance(where, exp.And) else [where]
        held = [self.one_in(test) for test in tests]
        noted = [bool(found and (known := known_of(found)) and {*known} <= self.noted) for found in held]
        periods, spoken = self.periods([None if by else one for one, by in zip(held, noted, strict=True)])
        asked = []
        for place, test in enumerate(tests):
            if place in periods:
                asked.append(periods[place])
            elif place not in spoken and not noted[place]:
                told = self.condition(test)
                asked.append(self.say("either", a=told) if isinstance(test, exp.Or) and len(tests) > 1 else told)
        if asked:
            yield self.line("only", "; ".join(asked))
        if any(noted):
            yield self.line("by-notes", "; ".join(self.condition(t) for t, by in zip(tests, noted, strict=True) if by))

    def one_in(self, test: exp.Expr) -> Condition | None:
        """The condition that a test is, where it is a single one and nothing around it but a NOT."""
        while isinstance(test, exp.Paren | exp.Not):
            test = test.this
        found = self.by_node.get(id(test))
        return found if found is not None and not found.either else None

    def periods(self, held: Sequence[Condition | None]) -> tuple[dict[int, str], set[int]]:
        """Two ends of the same time as one period, by the place of the first of them; and the places of the others."""
        since: dict[tuple[str, str, str], int] = {}
        said: dict[int, str] = {}
        spoken: set[int] = set()
        for begins in (True, False):
            for place, one in enumerate(held):
                if one is None or not _ends(one, begins) or one.ref is None:
                    continue
                # Of a table that is read twice each is another.
                key = (*one.ref.key, one.subject.text("table").casefold())
                if begins:
                    since[key] = place
                    continue
                first = since.pop(key, None)
                low = held[first] if first is not None else None
                told = self.period(low, one) if low is not None else ""
                if told and first is not None:
                    said[min(first, place)] = told
                    spoken.add(max(first, place))
        return said, spoken

    def period(self, low: Condition, high: Condition) -> str:
        """A column within two instants; empty where they are no texts."""
        ends = [*low.values, *high.values]
        if low.ref is None or len(ends) != 2 or not all(isinstance(end, str) for end in ends):
            return ""
        said = period(str(ends[0]), str(ends[1]), self.now, self.language, self.notes.calendar)
        return f"{self.value(low.subject)} {said}" if said else ""

    def ends(self, node: exp.Select) -> Iterator[ReadLine]:
        """Order, how many, and how many are left out before."""
        order, limit, offset = (node.args.get(k) for k in ("order", "limit", "offset"))
        if order is not None:
            yield self.line("order", self.listed(self.ordered(o, node) for o in order.expressions))
        if limit is not None:
            count = plain(limit.expression) if limit.args.get("expression") is not None else None
            yield self.line("first", f"{count:g}" if isinstance(count, float) else written(limit))
        if offset is not None:
            yield self.line("after", self.value(offset.expression))


def _unsaid(node: exp.Select) -> Iterator[object]:
    """The parts of a query that have no words."""
    group = node.args.get("group")
    yield from (v for k, v in (group.args.items() if group is not None else ()) if k != "expressions" and v)
    yield from (v for k, v in node.args.items() if k not in SAID and v)


def _ends(condition: Condition, begins: bool) -> bool:
    """Whether it is one end of a time: the beginning, or the end, which a day "up to" which something is, is not."""
    if condition.ref is None or not condition.bare or not is_temporal(condition.ref.column):
        return False
    if begins:
        return condition.op == ">="
    instant = all(isinstance(value, str) and len(value) > _DAY for value in condition.values)
    return condition.op == "<" or (condition.op == "<=" and instant)


def _is_key(table: Table, other: Table, pairs: Sequence[tuple[tuple[str, str], tuple[str, str]]]) -> bool:
    """Whether pairs of columns, those of the table first, are a key of it to the other."""
    wanted = {(here[1], there[1]) for here, there in pairs if here[0] == table.name and there[0] == other.name}
    return len(wanted) == len(pairs) and any(
        k.table == other.name and wanted == set(zip(k.columns, k.references, strict=True)) for k in table.foreign_keys
    )


def _of_the_notes(statement: Statement, notes: Notes, measures: Sequence[str]) -> Iterator[Known]:
    """What the notes ask of the tables and measures of a statement."""
    catalog = statement.catalog
    for table in {table.name for table in statement.tables.values()}:
        wanted = notes.of(table).default_filter
        if wanted:
            yield from conditions_in(f"SELECT 1 FROM {table} WHERE {wanted}", catalog.engine, catalog, notes)
    for name in measures:
        yield from measure_conditions(notes.measures[name], catalog, notes)
