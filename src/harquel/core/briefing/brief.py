"""Picks tables, columns, measures and examples for a question, within a budget of tokens.

1. everything, while everything fits
2. otherwise: rank, take the best, close over the keys so that every way to join is in, then fit:
   columns go before tables, and each item keeps the reason why it is there
"""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Final

from harquel.core.briefing.describe import measure_columns, measure_tables, measure_text
from harquel.core.briefing.index import CatalogIndex
from harquel.core.briefing.rank import likeness, rank
from harquel.core.briefing.reckoned import reckoned
from harquel.core.briefing.tokens import TokenGauge
from harquel.core.briefing.words import stems
from harquel.core.domain.catalog import Table
from harquel.core.domain.examples import Example
from harquel.core.domain.inquiry import BriefedTable, BriefingSummary

MOST_EXAMPLES: Final = 5
_BEST: Final = 3
_NAMED: Final = 2
"""Tables of which the question names rows, whose children are taken too."""
"""Tables, best first, that come with what their keys point at."""
_UPWARDS: Final = 2
_SEEDS: Final = 24
"""Tables, best first, that are looked at."""
_LEAST: Final = 40
"""Tokens below which there is no room for a table."""
_UP, _DOWN, _UNKNOWN, _FARTHEST = 1.0, 2.5, 1.0, 5.0
"""What a step from key to key costs, more through tables that nobody described, and how far a way may lead."""
_FAINT: Final = 0.12
"""Tables whose score is below this share of the best one's are not worth their tokens."""
_EXAMPLE_SHARE: Final = 0.25
_MEASURE_SHARE: Final = 0.15
_SAME: Final = 0.9
_SAMENESS: Final = 0.5
"""How much it counts against an example that it is like one already chosen."""


@dataclass(frozen=True)
class Briefing:
    """`schema`, `measures`, `general` are prompt text; `summary` says what was picked and why."""

    engine: str
    schema: str
    measures: str
    general: str
    reckoned: str
    """By which calendar people reckon, as prompt text; empty where everything is as usual."""
    examples: tuple[Example, ...]
    summary: BriefingSummary
    tables: tuple[Table, ...] = field(repr=False, default=())
    more: int = 0
    """Tables of the catalog that are not in."""


def brief(
    question: str, index: CatalogIndex, examples: Sequence[Example], budget_tokens: int, gauge: TokenGauge,
    wanted: Iterable[str] = (),
) -> Briefing:  # fmt: skip
    """The briefing. What is not in the index's catalog is not mentioned.

    `wanted` are names of tables, or words, that the model asked for: what they mean is in, as far as it fits.
    """
    known = index.numbers.keys()
    usable = [e for e in examples if {t.casefold() for t in e.tables} <= known]
    chosen = pick_examples(question, usable)
    room = budget_tokens - min(
        int(budget_tokens * _EXAMPLE_SHARE), sum(gauge.estimate(e.question + e.sql) for e in chosen)
    )  # fmt: skip
    measures = sum(gauge.estimate(measure_text(n, m)) for n, m, _, _ in index.measures)
    allowance = min(int(budget_tokens * _MEASURE_SHARE), measures)
    room -= allowance
    if _whole_size(index, gauge) <= room:
        picked: list[Pick] = [(i, None, "the whole schema fits") for i in range(len(index.catalog.tables))]
        left_out: list[str] = []
    else:
        picked, left_out = _Fitting(question, index, usable, room, gauge, tuple(wanted)).pick()
    return _briefing(question, index, picked, left_out, chosen, gauge, allowance)


def pick_examples(question: str, examples: Sequence[Example], most: int = MOST_EXAMPLES) -> tuple[Example, ...]:
    """The few that are most like the question and not like each other (maximal marginal relevance)."""
    asked = _about(question)
    words = [_about(e.question) for e in examples]
    alike = [likeness(asked, w) for w in words]
    waiting = sorted(range(len(examples)), key=lambda i: (-alike[i], i))[: 8 * most]
    chosen: list[int] = []
    while waiting and len(chosen) < most:
        # One that says the same as a chosen one adds nothing, unless there is nothing else.
        other = [i for i in waiting if _nearest(words[i], [words[c] for c in chosen]) < _SAME]
        waiting = other or waiting
        best = max(waiting, key=lambda i: alike[i] - _SAMENESS * _nearest(words[i], [words[c] for c in chosen]))
        waiting.remove(best)
        chosen.append(best)
    return tuple(examples[i] for i in sorted(chosen, key=lambda i: -alike[i]))


def _about(question: str) -> set[str]:
    """What a question is about; years and numbers make no other question of it."""
    return {s for s in stems(question) if not s.isdigit()}


def _nearest(words: set[str], others: list[set[str]]) -> float:
    return max((likeness(words, other) for other in others), default=0.0)


Pick = tuple[int, frozenset[str] | None, str]
"""A table, the columns that stay (None: all), and why it is there."""


class _Fitting:
    def __init__(
        self, question: str, index: CatalogIndex, examples: Sequence[Example], room: int, gauge: TokenGauge,
        wanted: tuple[str, ...],
    ) -> None:  # fmt: skip
        self.index, self.gauge, self.left = index, gauge, room
        self.ranking = rank(question, index, examples)
        self.picked: dict[int, tuple[frozenset[str] | None, str]] = {}
        self.missed: list[int] = []
        self._ask_for(wanted)
        if not self.ranking.tables:
            self._connected()

    def _connected(self) -> None:
        """Where no word of the question says anything: the tables that most others lead to, described ones first."""
        index = self.index
        degree = {n: len(index.parents[n]) + len(index.children[n]) for n in range(len(index.catalog.tables))}
        best = sorted(degree, key=lambda n: (not index.described[n], -degree[n], n))[:_SEEDS]
        for place, number in enumerate(best):
            self.ranking.tables[number] = 1.0 - 0.5 * place / len(best)
            self.ranking.reasons[number].append((1.0, f"the question names no table; {degree[number]} others join it"))

    def _ask_for(self, wanted: tuple[str, ...]) -> None:
        names = self.index.numbers
        top = max(self.ranking.tables.values(), default=1.0)
        for word in wanted:
            number = names.get(word.casefold().strip('"`'))
            found = [number] if number is not None else rank(word, self.index).ordered()[:3]
            for table in found:
                self.ranking.tables[table] = self.ranking.tables.get(table, 0.0) + top
                self.ranking.reasons[table].append((99.0, f"the model asked for {word}"))

    def pick(self) -> tuple[list[Pick], list[str]]:
        """The tables in catalog order, and the names of good ones that did not fit.

        1. what is sure, and the best few, each with what its keys point at: that names and dates its rows; what
           points at those of which a row is named; and what people described above all of these
        2. the rest, best first, each with the way that joins it to what is there
        3. what the keys of all of them point at, while there is room
        """
        order = self.ranking.ordered()
        floor = self.ranking.tables[order[0]] * _FAINT
        order = [t for t in order if self.ranking.tables[t] >= floor or t in self.ranking.sure]
        sure = [t for t in order if t in self.ranking.sure]
        # 1
        self._pick_best(list(dict.fromkeys([*order[:1], *sure, *order[:_BEST]])))
        # 2
        came = self._ways()
        for number in order[:_SEEDS]:
            if self.left < _LEAST:
                break
            self._join(number, came)
        # 3
        for number in sorted(self.picked, key=lambda t: -self.ranking.tables.get(t, 0.0)):
            if self.left >= _LEAST:
                self._add_parents(number, 1)
        if not self.picked:
            self._pick_one(order)
        names = [self.index.catalog.tables[t].name for t in dict.fromkeys(self.missed)]
        return [(n, *self.picked[n]) for n in sorted(self.picked)], names[:20]

    def _pick_best(self, best: list[int]) -> None:
        for place, number in enumerate(best):
            self._join(number)
            self._add_parents(number, 1 if place else _UPWARDS)
        for number in best:
            self._add_parents(number, _UPWARDS)
        for number in [n for n in best if self.ranking.touched[n]][:_NAMED]:
            self._add_children(number)
        for number in [n for n in self.picked if self.index.described[n]]:
            self._add_parents(number, 1)

    def _pick_one(self, order: list[int]) -> None:
        """One too large to fit is still better than none: a smaller one that ranks lower, or what keys it has."""
        for number in order:
            if self._take(number, self.ranking.reason(number)):
                return
        self._put(order[0], self._columns(order[0], 0.0), self.left, self.ranking.reason(order[0]))

    def _join(self, number: int, came: dict[int, int] | None = None) -> None:
        """Takes a table together with the tables on the way to what is there."""
        if number in self.picked:
            return
        way = [number]
        found = self._ways(number) if came is None else came
        while way[-1] in found and found[way[-1]] not in self.picked:
            way.append(found[way[-1]])
        way = way[::-1] if way[-1] in found else [number]
        for step in way:
            if step not in self.picked and not self._take(step, self._why(step, number, way)):
                self.missed.append(step)

    def _add_parents(self, number: int, levels: int) -> None:
        """What the keys of a table point at, the described ones first, and so on upwards."""
        tables, described = self.index.catalog.tables, self.index.described
        for parent in sorted(self.index.parents[number], key=lambda t: not described[t]):
            if parent not in self.picked and (described[parent] or not any(described)):
                self._take(parent, f"{tables[number].name} points at it")
            if levels > 1 and parent in self.picked:
                self._add_parents(parent, levels - 1)

    def _add_children(self, number: int) -> None:
        """What is described and points at a table of which the question names a row: what that row did or had."""
        tables, described = self.index.catalog.tables, self.index.described
        for child in sorted(self.index.children[number], key=lambda t: -self.ranking.tables.get(t, 0.0)):
            if described[child] and child not in self.picked and self.left >= _LEAST:
                self._take(child, f"it points at {tables[number].name}")

    def _why(self, step: int, goal: int, way: list[int]) -> str:
        own = self.ranking.reason(step)
        if step == goal or own:
            return own
        tables = self.index.catalog.tables
        return f"joins {tables[way[-1]].name} with what is there"

    def _ways(self, goal: int = -1) -> dict[int, int]:
        """The cheapest ways over keys from what is picked: each table reached, and the one before it.

        Up from many to one costs least: that is how a row is looked up. Down, from one to many, multiplies rows.
        With a goal it ends there.
        """
        cost = dict.fromkeys(self.picked, 0.0)
        came: dict[int, int] = {}
        line = [(0.0, p) for p in self.picked]
        heapq.heapify(line)
        parents, children, described = self.index.parents, self.index.children, self.index.described
        while line:
            here_cost, here = heapq.heappop(line)
            if here == goal:
                break
            if here_cost > cost[here]:
                continue
            for others, step in ((parents[here], here_cost + _UP), (children[here], here_cost + _DOWN)):
                if step > _FARTHEST:
                    continue
                for other in others:
                    new = step if described[other] or other == goal else step + _UNKNOWN
                    if new <= _FARTHEST and new < cost.get(other, _FARTHEST + 1):
                        cost[other], came[other] = new, here
                        heapq.heappush(line, (new, other))
        return came

    def _take(self, number: int, why: str) -> bool:
        size = self._tokens(number, None)
        if size <= self.left and size <= max(min(400, self.left // 2), self.left // 4):
            self._put(number, None, size, why)
            return True
        for share in (0.5, 0.2, 0.0):
            columns = self._columns(number, share)
            size = self._tokens(number, columns)
            # A table without all its columns is still better than none of the next one.
            if size <= self.left and (size <= max(250, self.left // 6) or share == 0.0):
                self._put(number, columns, size, why)
                return True
        return False

    def _put(self, number: int, columns: frozenset[str] | None, size: int, why: str) -> None:
        self.picked[number] = (columns, why)
        self.left -= size

    def _tokens(self, number: int, columns: frozenset[str] | None) -> int:
        return int(self.index.size(number, columns) / self.gauge.chars_per_token) + 1

    def _columns(self, number: int, share: float) -> frozenset[str]:
        """The columns that stay: keys, what dates and names a row, what the question touches, then a share."""
        table, about = self.index.catalog.tables[number], self.index.notes.of(self.index.catalog.tables[number].name)
        keep = {c.name for c in table.columns if c.primary_key} | {c for k in table.foreign_keys for c in k.columns}
        keep |= {n for n in (about.when, about.label) if n}
        for _, measure, _, tables in self.index.measures:
            if number in tables:
                keep |= {c for t, c in measure_columns(measure) if t.casefold() == table.name.casefold()}
        counts = self.ranking.columns(number)
        touched = sorted(counts, key=lambda i: -counts[i])
        rest = [i for i in range(len(table.columns)) if i not in counts]
        some = touched if share else touched[:6]
        some += rest[: int(len(table.columns) * share)]
        return frozenset(keep | {table.columns[i].name for i in some})


def _measures(question: str, index: CatalogIndex, names: set[str], room: int, gauge: TokenGauge) -> list[str]:
    """The measures whose tables are in, those that the question speaks of first, as far as they fit."""
    words = set(stems(question))
    texts: list[tuple[str, str]] = []
    for name, measure, _, _ in sorted(index.measures, key=lambda m: -len(m[2] & words)):
        text = measure_text(name, measure)
        size = gauge.estimate(text)
        if measure_tables(measure) <= names and _columns_exist(index, measure_columns(measure)) and size <= room:
            texts.append((name, text))
            room -= size
    order = {name: place for place, (name, *_) in enumerate(index.measures)}
    return [text for _, text in sorted(texts, key=lambda t: order[t[0]])]


def _briefing(
    question: str, index: CatalogIndex, picked: list[Pick], left_out: list[str], examples: tuple[Example, ...],
    gauge: TokenGauge, allowance: int,
) -> Briefing:  # fmt: skip
    tables = index.catalog.tables
    names = {tables[n].name.casefold() for n, _, _ in picked}
    measures = _measures(question, index, names, allowance, gauge)
    texts = [index.text(n, columns) for n, columns, _ in picked]
    more = len(tables) - len(picked)
    schema = "\n\n".join(texts)
    if more:
        schema += f"\n\n-- {more} more tables are not shown; ask for them if they are needed."
    shown = []
    for number, columns, why in picked:
        all_names = [c.name for c in tables[number].columns]
        kept = [n for n in all_names if columns is None or n in columns]
        dropped = [n for n in all_names if n not in kept]
        shown.append(BriefedTable(name=tables[number].name, columns=kept, reason=why, left_out=dropped))
    summary = BriefingSummary(
        tables=shown, examples=[e.question for e in examples], left_out=left_out, more_tables=more,
        tokens=sum(map(gauge.estimate, [*texts, *measures, *(e.question + e.sql for e in examples)])),
    )  # fmt: skip
    return Briefing(
        index.catalog.engine, schema, "\n".join(measures), index.notes.said(),
        reckoned(index.notes.calendar, index.catalog), examples, summary,
        tuple(tables[n] for n, _, _ in picked), more,
    )  # fmt: skip


def _columns_exist(index: CatalogIndex, named: set[tuple[str, str]]) -> bool:
    return all(
        (table := index.catalog.table(t)) is not None and table.column(c) is not None for t, c in named
    )  # fmt: skip


def _whole_size(index: CatalogIndex, gauge: TokenGauge) -> int:
    """Tokens of everything; where there are many tables nobody needs to write them all out to know."""
    if len(index.catalog.tables) > 300:
        return 1 << 30
    return sum(gauge.estimate(index.text(n)) for n in range(len(index.catalog.tables)))
