"""What the words of a question can mean, going by the names and notes of the prompt."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from .prompt import Column, Described, Measure, Prompt, Table
from .words import EMPTY, NAMELESS, Token, root, stems

Kind = Literal["measure", "table", "column", "value", "null"]
_RANK: dict[Kind, int] = {"measure": 0, "table": 1, "value": 2, "null": 2, "column": 3}
_AFFIXES = frozenset("id cent eur kn nm m km on at is has pct".split())
# What a row is called: the noun phrase with which a table's description begins.
_HEAD = re.compile(
    r"(?:an?|one|the)\s+((?:\w+\s+){0,2}?\w+?)(?::|\s+(?:of|on|in|at|that|who|where|between|by|to|with|for)\b)",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Meaning:
    """One reading of a phrase. `weight` 3: a name or synonym, 2: a value or description, 1: part of a name."""

    kind: Kind
    weight: int
    table: str
    column: str = ""
    value: str = ""
    measure: Measure | None = None


@dataclass(frozen=True)
class Span:
    """Tokens from start up to end that mean something, the likeliest reading first."""

    start: int
    end: int
    meanings: tuple[Meaning, ...]

    def of(self, *kinds: Kind) -> list[Meaning]:
        """The readings of these kinds."""
        return [m for m in self.meanings if m.kind in kinds]


class Lexicon:
    """Phrases (as stems) to their meanings."""

    def __init__(self, described: Described) -> None:
        self._phrases: dict[tuple[str, ...], list[Meaning]] = {}
        for measure in described.measures:
            for phrase in measure.phrases:
                self._add(phrase, Meaning("measure", 3, measure.of, measure=measure))
        for table in described.tables.values():
            self._table(table)
            for column in table.columns.values():
                self._column(column)
        self._roots: dict[str, list[Meaning]] = {}
        for key, meanings in self._phrases.items():
            if len(key) == 1 and root(key[0]):
                self._roots.setdefault(root(key[0]), []).extend(m for m in meanings if m.weight > 1)
        self.vocabulary = frozenset(word for phrase in self._phrases for word in phrase)
        self._longest = max((len(p) for p in self._phrases), default=1)

    def _add(self, phrase: str | tuple[str, ...], meaning: Meaning) -> None:
        key = stems(phrase) if isinstance(phrase, str) else phrase
        if key and not (len(key) == 1 and (key[0] in NAMELESS or len(key[0]) < 2)):
            known = self._phrases.setdefault(key, [])
            if meaning not in known:
                known.append(meaning)

    def _table(self, table: Table) -> None:
        for phrase in (table.name, *table.synonyms):
            self._add(phrase, Meaning("table", 3, table.name))
        head = _HEAD.match(table.text)
        if head:
            self._add(head.group(1), Meaning("table", 2, table.name))

    def _column(self, column: Column) -> None:
        at = (column.table, column.name)
        parts = list(stems(column.name))
        while len(parts) > 1 and parts[-1] in _AFFIXES:
            parts.pop()
        if len(parts) > 1 and column.unit and len(parts[-1]) <= 3:
            parts.pop()
        while len(parts) > 1 and parts[0] in _AFFIXES:
            parts.pop(0)
        for phrase in (tuple(parts), *map(stems, column.synonyms)):
            self._add(phrase, Meaning("column", 3, *at))
        if 0 < len(column.text.split()) <= 3:
            self._add(column.text, Meaning("column", 2, *at))
        if len(parts) > 1:
            self._add((parts[-1],), Meaning("column", 1, *at))
        for value in column.values:
            if len(value) > 1 or not column.codes:
                self._add(value, Meaning("value", 2, *at, value=value))
        for code, meaning in column.codes.items():
            self._add(meaning, Meaning("value", 2, *at, value=code))
        for text in column.null_means.split(","):
            if text.strip():
                self._add(text, Meaning("null", 2, *at))

    def spans(self, words: list[Token], taken: set[int]) -> list[Span]:
        """The longest phrases that mean something, from left to right, around the taken tokens."""
        found, at = [], 0
        while at < len(words):
            span = self._longest_at(words, at, taken)
            if span is None:
                at += 1
            else:
                found.append(span)
                at = span.end
        return found

    def _longest_at(self, words: list[Token], at: int, taken: set[int]) -> Span | None:
        for length in range(min(self._longest, len(words) - at), 0, -1):
            if taken & set(range(at, at + length)):
                continue
            phrase = tuple(w.stem for w in words[at : at + length])
            meanings = self._phrases.get(phrase) or self._phrases.get(tuple(w.low for w in words[at : at + length]))
            word = words[at].low
            if not meanings and length == 1 and word not in EMPTY and root(word):
                # "Cancellations" are what was cancelled, "rented" is a rental.
                meanings = self._roots.get(root(word))
            if meanings:
                ranked = sorted(meanings, key=lambda m: (_RANK[m.kind], -m.weight))
                return Span(at, at + length, tuple(ranked))
        return None


def lexicon_of(prompt: Prompt) -> Lexicon:
    """What the words can mean in which the question of a prompt is put; made once for the same description."""
    return _made(prompt.described)


@lru_cache(maxsize=32)
def _made(described: Described) -> Lexicon:
    return Lexicon(described)
