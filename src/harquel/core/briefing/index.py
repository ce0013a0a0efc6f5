"""Everything that can be known of a table before a question comes, made once for each version of a catalog."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Final, NamedTuple

from harquel.core.briefing.describe import column_sizes, measure_tables, table_text
from harquel.core.briefing.words import fold, name_stems, split, stem, stems
from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.notes import ColumnNotes, Measure, Notes
from harquel.core.domain.policy import Policy

# How much a word counts by where it stands. A name says more than a remark.
NAME, SYNONYM, COLUMN_NAME, COLUMN_SYNONYM, CODE, TEXT, REMARK = 4.0, 4.0, 2.4, 2.8, 1.8, 1.2, 0.8
_KEPT_TEXTS: Final = 5000
_LONGEST_VALUE: Final = 6
"""Words that a value may have to be looked for in a question."""


class Hit(NamedTuple):
    """A word's place: in a table (`column` -1) or a column of it, and how much it counts there."""

    table: int
    column: int
    weight: float
    where: str


@dataclass
class CatalogIndex:
    """What is visible of a source, with its notes and its declared joins, ready to be searched."""

    catalog: Catalog
    notes: Notes
    policy: Policy
    hits: dict[str, dict[int, list[Hit]]] = field(default_factory=dict)
    """For each word, by table, where it stands there; the place that counts most comes first."""
    values: dict[tuple[str, ...], list[Hit]] = field(default_factory=dict)
    names: list[frozenset[str]] = field(default_factory=list)
    measures: list[tuple[str, Measure, frozenset[str], frozenset[int]]] = field(default_factory=list)
    parents: list[list[int]] = field(default_factory=list)
    """For each table those that its keys point at."""
    children: list[list[int]] = field(default_factory=list)
    """For each table those whose keys point at it."""
    described: list[bool] = field(default_factory=list)
    _texts: dict[tuple[int, frozenset[str] | None], str] = field(default_factory=dict, repr=False)
    _sizes: dict[int, dict[str, int]] = field(default_factory=dict, repr=False)

    @classmethod
    def build(cls, catalog: Catalog, notes: Notes, policy: Policy) -> CatalogIndex:
        """`catalog` must be the visible one."""
        index = cls(catalog, notes, policy)
        for number, table in enumerate(catalog.tables):
            index._add(number, table)
        index._join()
        for name, measure in notes.measures.items():
            index._measure(name, measure)
        _ = index.spellings
        return index

    @cached_property
    def spellings(self) -> dict[str, str]:
        """Words of names, synonyms and descriptions as they are written, with their stems: for slips of spelling."""
        found: dict[str, str] = {}
        for table in self.catalog.tables:
            about = self.notes.of(table.name)
            texts = [table.plain, about.text, *about.synonyms, *(c.name for c in table.columns)]
            texts += [s for c in about.columns.values() for s in c.synonyms]
            for word in {w for text in texts for w in split(text)}:
                if len(word) > 3 and word.isalpha():
                    found[word] = stem(word)
        for word, known in list(found.items()):
            found.setdefault(word + "s", known)
            if len(word) > 4:
                found.setdefault(word + "ing", stem(word + "ing"))
        return {word: known for word, known in found.items() if known in self.hits}

    @cached_property
    def numbers(self) -> dict[str, int]:
        """Places of tables by their folded names."""
        return {t.name.casefold(): i for i, t in enumerate(self.catalog.tables)}

    def rarity(self, word: str) -> float:
        """How much a word says: 1 when all tables know it, more the fewer do (inverse document frequency)."""
        holders = len(self.hits.get(word, ()))
        return 1.0 + math.log((1 + len(self.catalog.tables)) / (1 + holders))

    def size(self, number: int, columns: frozenset[str] | None = None) -> int:
        """Code points that `text` would take, closely enough to plan with."""
        known = self._sizes.get(number)
        if known is None:
            table = self.catalog.tables[number]
            about = self.notes.of(table.name)
            known = self._sizes[number] = column_sizes(table, about, self.policy)
            head = 90 + len(table.name) + len(about.text or table.comment) + len(about.default_filter or "")
            known[""] = head + sum(len(s) + 2 for s in about.synonyms)
        if columns is None:
            return sum(known.values())
        return known[""] + sum(known.get(c, 0) for c in columns) + 30

    def text(self, number: int, columns: frozenset[str] | None = None) -> str:
        """A table as prompt text, all of it or some of its columns."""
        known = self._texts.get((number, columns))
        if known is None:
            table = self.catalog.tables[number]
            known = table_text(table, self.notes.of(table.name), self.catalog.engine, self.policy, columns)
            if len(self._texts) < _KEPT_TEXTS:
                self._texts[number, columns] = known
        return known

    # -- building --------------------------------------------------------------------------------

    def _add(self, number: int, table: Table) -> None:
        about = self.notes.of(table.name)
        self.described.append(bool(about.text or about.columns))
        own = frozenset(name_stems(table.plain))
        self.names.append(own)
        best: dict[tuple[str, int], tuple[float, str]] = {}

        def note(words: Iterable[str], column: int, weight: float, where: str) -> None:
            for word in words:
                known = best.get((word, column))
                if known is None or known[0] < weight:
                    best[word, column] = (weight, where)

        note(own, -1, NAME, "its name")
        for synonym in about.synonyms:
            note(stems(synonym), -1, SYNONYM, f"also called {synonym}")
        note(stems(about.text), -1, TEXT, "its description")
        note(stems(table.comment), -1, TEXT, "its comment")
        for position, column in enumerate(table.columns):
            words = about.columns.get(column.name) or ColumnNotes()
            note(name_stems(column.name), position, COLUMN_NAME, f"column {column.name}")
            for synonym in words.synonyms:
                note(stems(synonym), position, COLUMN_SYNONYM, f"{column.name}, also called {synonym}")
            for code, meaning in words.codes.items():
                for word in (meaning, *words.also.get(code, ())):
                    note(stems(word), position, CODE, f"{column.name} {code} means {word}")
            if words.text or words.null_means or column.comment:
                remark = f"{words.text} {words.null_means or ''} {column.comment}"
                note(stems(remark), position, REMARK, f"what is said of {column.name}")
            self._add_values(number, position, table, column)
        for (word, place), (weight, where) in best.items():
            of_table = self.hits.setdefault(word, {}).setdefault(number, [])
            of_table.append(Hit(number, place, weight, where))
            if weight > of_table[0].weight:
                of_table.insert(0, of_table.pop())

    def _add_values(self, number: int, position: int, table: Table, column: Column) -> None:
        if column.kind != "text" or self.policy.is_personal(table.name, column):
            return
        for value in {*column.samples, *column.options}:
            words = tuple(map(stem, split(value))) if isinstance(value, str) else ()
            if 0 < len(words) <= _LONGEST_VALUE and len(fold(str(value))) > 1:
                # A value that runs over several words is hardly there by chance.
                weight = 3.0 + 0.5 * (len(words) - 1) + (1.0 if column.unique else 0.0)
                weight += 3.0 if self.notes.of(table.name).label == column.name else 0.0
                hit = Hit(number, position, weight, f"{column.name} holds {value}")
                self.values.setdefault(words, []).append(hit)

    def _join(self) -> None:
        numbers = {t.name: i for i, t in enumerate(self.catalog.tables)}
        self.parents, self.children = [[] for _ in numbers], [[] for _ in numbers]
        for number, table in enumerate(self.catalog.tables):
            for key in table.foreign_keys:
                other = numbers.get(key.table)
                if other is not None and other != number and other not in self.parents[number]:
                    self.parents[number].append(other)
                    self.children[other].append(number)

    def _measure(self, name: str, measure: Measure) -> None:
        numbers = {t.name.casefold(): i for i, t in enumerate(self.catalog.tables)}
        tables = measure_tables(measure)
        if tables <= numbers.keys():
            words = frozenset(w for text in (name, *measure.synonyms) for w in stems(text))
            self.measures.append((name, measure, words, frozenset(numbers[t] for t in tables)))


def phrases(words: list[str]) -> Iterable[tuple[str, ...]]:
    """All runs of words that could be a value, longest first."""
    for length in range(min(_LONGEST_VALUE, len(words)), 0, -1):
        for start in range(len(words) - length + 1):
            yield tuple(words[start : start + length])


def grouped(hits: Iterable[Hit]) -> dict[int, list[Hit]]:
    """Hits by table."""
    found: dict[int, list[Hit]] = defaultdict(list)
    for hit in hits:
        found[hit.table].append(hit)
    return found
