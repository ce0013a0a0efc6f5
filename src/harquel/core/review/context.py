"""What a rule of review is given: the question as read, the statement as read, and what is known of the source."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from functools import cached_property

from sqlglot import exp

from harquel.core.briefing.meanings import Meaning, Meanings, stands_for
from harquel.core.briefing.words import fold, name_stems, stem
from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.findings import Finding
from harquel.core.domain.notes import ColumnNotes, Measure, Notes
from harquel.core.domain.policy import Policy
from harquel.core.review.grain import Grain
from harquel.core.review.known import (
    Known,
    conditions_in,
    is_flag,
    known_of,
    measure_columns,
    measure_conditions,
    same_value,
    truth,
)  # fmt: skip
from harquel.core.review.question import Number, Question
from harquel.core.review.statement import Condition, Level, Plain, Statement
from harquel.core.review.times import Window, windows
from harquel.core.sql.tree import place

_FACTORS = (1.0, 100.0, 60.0, 3600.0, 1440.0, 86400.0, 1000.0, 1 / 60, 1 / 24, 1 / 1440, 1 / 86400, 0.01)
_NUMBER = re.compile(r"(?<![\w.])\d+(?:\.\d+)?")
_NEGATIVE = frozenset(
    stem(w)
    for w in "cancelled cancel cancellation refused rejected failed missed no not none never "
    "unpaid without lost retired inactive absent".split()
)


@dataclass(frozen=True)
class Lookups:
    """Small questions to the database beside a draft; each gives None where it was not asked."""

    holds: Callable[[Table, Column, str], bool | None] = lambda table, column, value: None
    """Whether a column holds a text."""
    named_by: Callable[[Table, Column, Plain], tuple[str, ...] | None] = lambda table, column, key: None
    """The texts that name the one row with a key; empty where there is no such row."""


@dataclass
class ReviewContext:
    """One draft for one question."""

    question: Question
    statement: Statement
    catalog: Catalog
    notes: Notes
    policy: Policy
    engine: str
    meanings: Meanings
    vouched: tuple[str, ...] = ()
    """SQL of examples that answer a question like this one."""
    vouched_words: frozenset[str] = frozenset()
    same_questions: tuple[str, ...] = ()
    """SQL of examples that answer this very question."""
    lookups: Lookups = field(default_factory=Lookups)
    grains: dict[int, Grain] = field(default_factory=dict)

    def names_of(self, condition: Condition) -> tuple[str, ...] | None:
        """What the rows are called that a condition on a key takes; None where it is on no key, or nobody looked."""
        if condition.ref is None or not condition.bare or condition.op not in ("=", "in") or not condition.values:
            return None
        table, column = condition.ref.table, condition.ref.column
        key = next((k for k in table.foreign_keys if k.columns == (column.name,)), None)
        if key is not None and not (column.primary_key and column.unique):
            target = self.catalog.table(key.table)
            pointed = target.column(key.references[0]) if target is not None and key.references else None
            if target is None or pointed is None:
                return None
            table, column = target, pointed
        elif not (column.primary_key and column.unique):
            return None
        found: list[str] = []
        for value in condition.values:
            names = self.lookups.named_by(table, column, value)
            if names is None:
                return None
            found += names
        return tuple(found)

    @cached_property
    def called(self) -> frozenset[str]:
        """The names, folded, of all rows that the statement takes by their keys."""
        return frozenset(fold(n) for c in self.statement.conditions for n in self.names_of(c) or ())

    def about(self, table: str, column: str) -> ColumnNotes:
        """The notes on a column."""
        return self.notes.of(table).columns.get(column) or ColumnNotes()

    def grain(self, level: Level) -> Grain:
        """How the rows of a query come about."""
        return self.grains.setdefault(id(level), Grain(level, self.statement))

    @cached_property
    def windows(self) -> list[Window]:
        """The times that the statement looks at."""
        return windows(self.statement)

    @cached_property
    def said(self) -> frozenset[Known]:
        """Every condition on a column, by what it says."""
        return frozenset(k for c in self.statement.conditions for k in known_of(c))

    @cached_property
    def vouched_for(self) -> frozenset[Known]:
        """The conditions of examples that answer a question like this one."""
        return frozenset(k for sql in self.vouched for k in conditions_in(sql, self.engine, self.catalog, self.notes))

    @cached_property
    def default_filters(self) -> frozenset[Known]:
        """The conditions that rows of some table must meet by the notes."""
        return frozenset(
            k for name, about in self.notes.tables.items() if about.default_filter
            for k in conditions_in(
                f"SELECT 1 FROM {name} WHERE {about.default_filter}", self.engine, self.catalog, self.notes
            )
        )  # fmt: skip

    def parts(self, word: str) -> list[Meaning]:
        """What the stem of a word can mean as part of a longer name or of a note."""
        return self.meanings.parts.get(word, [])

    def question_means(self, kind: str, table: str, column: str) -> bool:
        """Whether some word of the question has that meaning and no other kind for the same column."""
        found = [
            m.kind for mention in self.question.mentions
            for m in (
                *mention.meanings,
                *(self.parts(self.question.words[mention.first].stem) if mention.first == mention.last else ()),
            )
            if m.table == table and m.column == column
        ]  # fmt: skip
        return kind in found and not {"column", "code", "value"} & set(found)

    def number_asked(self, value: float) -> bool:
        """Whether a number of the query is one of the question's, in whichever unit."""
        return any(self.is_number(value, n) for n in self.question.numbers)

    def is_number(self, value: Plain, number: Number) -> bool:
        """Whether a literal is a number of the question, as it is or converted."""
        return isinstance(value, float) and any(
            abs(value - number.value * f) <= 1e-9 + 1e-6 * abs(value) for f in _FACTORS
        )

    def numbers_of(self, sql: str) -> list[float]:
        """The numbers in a definition that are no part of a conversion."""
        found = [float(n) for n in _NUMBER.findall(sql)]
        return [n for n in found if n not in (0.0, 1.0, 100.0)]

    def close(self, value: Plain, number: float) -> bool:
        """Whether a literal says a number of a definition: as a number, in seconds, or in a text."""
        if isinstance(value, str):
            return any(abs(float(n) - number) <= 0.02 for n in _NUMBER.findall(value))
        return isinstance(value, float) and any(
            abs(value - number * f) <= 0.02 * f for f in (1.0, 60.0, 1 / 1440, 1 / 60)
        )

    def negative(self, word: str) -> bool:
        """Whether the stem of a word says that something is not so."""
        return word in _NEGATIVE

    def measures_asked(self) -> list[tuple[str, Measure]]:
        """Measures that the question names."""
        return [(n, m) for n, m in self.notes.measures.items() if n in self.question.measures]

    def measure_conditions(self, measure: Measure) -> frozenset[Known]:
        """What the definition of a measure asks of its rows."""
        return measure_conditions(measure, self.catalog, self.notes)

    def fulfils(self, meaning: Meaning) -> bool:
        """Whether the statement does something with what a word can mean."""
        statement, table, column = self.statement, meaning.table, meaning.column
        if meaning.kind == "measure":
            measure = self.notes.measures[meaning.measure]
            if measure.sql.upper().startswith("COUNT"):
                return self._reads_table(measure.of)
            return bool(measure_columns(measure, self.engine, self.catalog) & statement.read) or self._same_name(
                meaning.measure
            )
        if meaning.kind in ("table", "remark") and not column:
            return self._reads_table(table)
        if meaning.kind in ("column", "remark"):
            return (table, column) in statement.read
        if meaning.kind == "value" and self._is_label(table, column) and self._code_of(meaning.value):
            return True
        if (table, column) not in statement.read:
            return False
        if meaning.kind == "null":
            return any(t == table and c == column for t, c, _, _ in self.said)
        told = [c for c in statement.conditions if c.ref is not None and c.ref.key == (table, column)]
        if any(same_value(v, meaning.value) for c in told for v in c.values):
            return True
        if meaning.kind == "value" and any(
            c.op in ("=", "in") and c.values and c.bare and not c.either and c.place != "case" for c in told
        ):
            return False  # other values of the column are taken, and no row has two
        if any(is_flag(c.ref.column) for c in told if c.ref is not None):
            return (table, column, "=", truth(meaning.value)) in self.said
        return self._shown(table, column)

    def _reads_table(self, table: str) -> bool:
        if table in self.statement.names.reads and (
            self.statement.names.reads[table] or any(p.table is not None and p.table.name == table
                                                     for level in self.statement.levels for p in level.parts.values())
        ):  # fmt: skip
            return True
        wanted = {tuple(name_stems(n)) for n in (table.rpartition(".")[2], *self.notes.of(table).synonyms)}
        for name in self.statement.names.reads:
            view = self.catalog.table(name)
            # A view that has a column of that name is about it.
            if (
                view is not None
                and view.kind != "table"
                and any(tuple(name_stems(c.name)) in wanted for c in view.columns)
            ):
                return True
        # What a table with a key there is said to be about: withdrawals are "parts taken from a depot".
        about = {m.table for name in wanted if len(name) == 1 for m in self.parts(name[0]) if m.kind == "remark"}
        holders = [h for n in self.statement.names.reads if n in about and (h := self.catalog.table(n)) is not None]
        if any(key.table == table for holder in holders for key in holder.foreign_keys):
            return True
        # A key that points at it stands for it: COUNT(DISTINCT customer_id).
        return any(
            key.table == table and all((name, c) in self.statement.read for c in key.columns)
            for name in self.statement.names.reads
            if (holder := self.catalog.table(name)) is not None
            for key in holder.foreign_keys
            if not self._only_joined(name, key.columns)
        )

    def _only_joined(self, table: str, columns: Iterable[str]) -> bool:
        """Whether columns of a table serve joins alone."""
        wanted = {(table, c) for c in columns}
        for node, column, owner in self.statement.names.columns:
            if (owner.name, column.name) in wanted and not isinstance(node.parent, exp.EQ):
                return False
        return True

    def _same_name(self, name: str) -> bool:
        """Whether a column that is read bears a measure's name: revenue_eur on a dashboard."""
        stem = name.replace(" ", "_").casefold()
        return any(c.casefold().startswith(stem) for _, c in self.statement.read)

    def _is_label(self, table: str, column: str) -> bool:
        return self.notes.of(table).label == column or column == "name"

    def _code_of(self, name: str) -> bool:
        """Whether some literal stands for a thing by its short code."""
        return any(
            isinstance(v, str) and stands_for(v, name)
            for c in self.statement.conditions if c.ref is not None and not c.negates for v in c.values
        )  # fmt: skip

    def _shown(self, table: str, column: str) -> bool:
        """Whether a column is grouped by or listed, so that each of its values is told apart."""
        outer = self.statement.outer
        return any(
            ref.key == (table, column)
            for level in self.statement.levels
            for node in (*level.groups, *(outer.select.expressions if level is outer and not outer.aggregates else ()))
            for ref in self.statement.refs(node)
        )

    def finding(
        self, rule: str, severity: str, message: str, hint: str, node: exp.Expr | None = None
    ) -> Finding:  # fmt: skip
        """A finding with its place in the draft."""
        start, end = place(node) if node is not None else (None, None)
        return Finding(rule=rule, severity=severity, message=message, hint=hint, start=start, end=end)  # type: ignore[arg-type]
