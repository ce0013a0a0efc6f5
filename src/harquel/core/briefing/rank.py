"""Which tables and columns a question is about, each with what speaks for it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Final

from rapidfuzz import process
from rapidfuzz.distance import DamerauLevenshtein

from harquel.core.briefing.index import CatalogIndex, phrases
from harquel.core.briefing.words import split, stem, stems
from harquel.core.domain.examples import Example
from harquel.core.language.english import ENGLISH

WHOLE_NAME: Final = 2.5
"""A table whose whole name stands in the question."""
DESCRIBED: Final = 3.0
"""What people describe is what people ask about."""
_MEASURE: Final = 9.0
_EXAMPLE: Final = 4.0
_ALIKE: Final = 0.5
_ENDINGS: Final = ("iest", "ier", "est", "er", "y", "ness", "ful", "ly")
"""What the stemmer leaves on, and what a word may be tried without."""
_ONLY: Final = 2.0
"""How much more a value counts whose words the catalog knows from nowhere else."""
_COMMON: Final = 10
"""Columns beyond which it makes no difference how many hold a value."""
_WRONG_LETTERS: Final = 0.75
"""What a word counts that was only found by forgiving a slip of spelling."""


@dataclass
class Ranking:
    """Scores, higher is better, with the strongest reasons first. `sure` tables must be in."""

    index: CatalogIndex
    roots: dict[str, float] = field(default_factory=dict)
    """What is asked for, as stems that the catalog knows, with how much each says."""
    tables: dict[int, float] = field(default_factory=dict)
    touched: dict[int, dict[int, float]] = field(default_factory=lambda: defaultdict(dict))
    reasons: dict[int, list[tuple[float, str]]] = field(default_factory=lambda: defaultdict(list))
    sure: set[int] = field(default_factory=set)

    def ordered(self) -> list[int]:
        """Tables, best first."""
        return sorted(self.tables, key=lambda t: (-self.tables[t], t))

    def reason(self, table: int) -> str:
        """The few things that speak loudest for a table."""
        found = list(self.reasons[table])
        for root, says in self.roots.items():
            hits = self.index.hits.get(root, {}).get(table)
            if hits:
                found.append((hits[0].weight * says, hits[0].where))
        said = [text for _, text in sorted(found, key=lambda f: -f[0])]
        return "; ".join(list(dict.fromkeys(said))[:3])

    def columns(self, table: int) -> dict[int, float]:
        """The columns of a table that the question touches, by position, with how strongly."""
        found = dict(self.touched[table])
        for root, says in self.roots.items():
            for hit in self.index.hits.get(root, {}).get(table, ()):
                if hit.column >= 0:
                    found[hit.column] = max(found.get(hit.column, 0.0), hit.weight * says)
        return found


def rank(question: str, index: CatalogIndex, examples: Iterable[Example] = ()) -> Ranking:
    """Scores every table that shares something with the question; the others are not in it."""
    found = Ranking(index)
    words = split(question)
    asked = {stem(w): _forgiven(w, index) for w in words if w not in ENGLISH.empty and (len(w) > 1 or w.isdigit())}
    for root, share in asked.values():
        found.roots[root] = max(found.roots.get(root, 0.0), index.rarity(root) * share)
    scores: dict[int, float] = defaultdict(float)
    for root, says in found.roots.items():
        for number, hits in index.hits.get(root, {}).items():
            scores[number] += hits[0].weight * says
    roots = found.roots.keys()
    for number, score in scores.items():
        name = index.names[number]
        covered = len(name & roots) / max(1, len(name))
        found.tables[number] = score * (1 + (WHOLE_NAME - 1) * covered * covered)
    _values([stem(w) for w in words], index, found)
    for number in found.tables:
        if index.described[number]:
            found.tables[number] *= DESCRIBED
    _measures(asked, index, found)
    _examples(set(asked), index, found, examples)
    return found


def _forgiven(word: str, index: CatalogIndex) -> tuple[str, float]:
    """The word itself where anybody knows it, otherwise the nearest known one, with what it then counts."""
    root = stem(word)
    if root in index.hits or len(word) < 5 or not word.isalpha():
        return root, 1.0
    for ending in _ENDINGS:
        bare = word.removesuffix(ending)
        if bare != word and len(bare) > 2 and (shorter := stem(bare)) in index.hits:
            return shorter, _WRONG_LETTERS
    most = 1 if len(word) < 8 else 2
    near = process.extractOne(
        word, index.spellings.keys(), scorer=DamerauLevenshtein.distance, score_cutoff=most
    )  # fmt: skip
    return (index.spellings[near[0]], _WRONG_LETTERS) if near is not None else (root, 1.0)


def _values(words: list[str], index: CatalogIndex, found: Ranking) -> None:
    taken: set[int] = set()
    for phrase in phrases(words):
        if phrase not in index.values or (len(phrase) == 1 and phrase[0] in ENGLISH.empty):
            continue
        start = next((i for i in range(len(words)) if tuple(words[i : i + len(phrase)]) == phrase), 0)
        places = set(range(start, start + len(phrase)))
        if places <= taken:
            continue
        taken |= places
        hits = index.values[phrase]
        # Words that nothing but this value explains cannot mean anything else.
        only = _ONLY if not any(word in index.hits for word in phrase) else 1.0
        for hit in hits:
            # A value that many columns hold says little about any of them.
            weight = only * hit.weight * 2.0 / (1 + 0.15 * min(len(hits) - 1, _COMMON))
            found.tables[hit.table] = found.tables.get(hit.table, 0.0) + weight
            found.reasons[hit.table].append((weight, hit.where))
            of_table = found.touched[hit.table]
            of_table[hit.column] = of_table.get(hit.column, 0.0) + weight


def _measures(asked: dict[str, tuple[str, float]], index: CatalogIndex, found: Ranking) -> None:
    words = set(asked) | {known for known, _ in asked.values()}
    for name, measure, _, tables in index.measures:
        spoken = [n for n in (name, *measure.synonyms) if (s := set(stems(n))) and s <= words]
        if spoken:
            for number in tables:
                found.tables[number] = found.tables.get(number, 0.0) + _MEASURE
                found.reasons[number].append((_MEASURE, f"the measure {name}"))
                found.sure.add(number)


def _examples(words: set[str], index: CatalogIndex, found: Ranking, examples: Iterable[Example]) -> None:
    numbers = index.numbers
    for example in examples:
        alike = likeness(words, set(stems(example.question)))
        if alike >= _ALIKE:
            for name in example.tables:
                number = numbers.get(name.casefold())
                if number is not None:
                    found.tables[number] = found.tables.get(number, 0.0) + _EXAMPLE * alike
                    found.reasons[number].append((_EXAMPLE * alike, f"a similar example: {example.question}"))


def likeness(one: set[str], other: set[str]) -> float:
    """Share of common words in all words of two questions, between 0 and 1 (Jaccard)."""
    return len(one & other) / len(one | other) if one or other else 0.0
