"""What a result says, as far as a sentence can be held against it: its things, their figures, what those come to."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property
from itertools import permutations
from typing import Final

from babel.dates import get_month_names

from harquel.contract.figures import is_figure
from harquel.core.answers.sentence.figures import number
from harquel.core.domain.inquiry import ResultTable

MOST_ROWS: Final = 60
"""Rows beyond which a model is not asked: too many figures could be meant by one."""
_MONTHS: Final = {
    name.casefold(): month
    for language in ("en", "de")
    for width in ("wide", "abbreviated")
    for month, name in get_month_names(width, locale=language).items()
}
_MONTH: Final = "|".join(sorted((re.escape(name.rstrip(".")) for name in _MONTHS), key=len, reverse=True))
_TIMES: Final = re.compile(
    rf"\b(?P<iso>(?:19|20)\d\d-\d\d(?:-\d\d)?)\b"
    rf"|\b(?:(?P<d>\d{{1,2}})\.? )?(?P<m>{_MONTH})\b\.?(?: (?P<d2>\d{{1,2}}),)?(?: (?P<y>(?:19|20)\d\d))?\b"
    rf"|\bQ(?P<q>[1-4])[ /-]?(?P<qy>(?:19|20)\d\d)\b"
    rf"|(?<![\d.,])(?P<year>(?:19|20)\d\d)(?![\d.,]*\d)",
    re.IGNORECASE,
)
_POINTS: Final = Decimal(100)


def times_in(text: str) -> Iterator[tuple[int, int, str]]:
    """Times that a text names, with where they stand: 2026, 2026-07, 2026-07-13, -07 for a month of no year."""
    for found in _TIMES.finditer(text.replace("_", " ")):
        yield found.start(), found.end(), _canonical(found)


def _canonical(found: re.Match[str]) -> str:
    if found["iso"]:
        return found["iso"]
    if found["q"]:
        return f"{found['qy']}-Q{found['q']}"
    if found["year"]:
        return found["year"]
    month = _MONTHS.get(found["m"].casefold()) or _MONTHS[found["m"].casefold() + "."]
    day = found["d"] or found["d2"]
    return f"{found['y'] or ''}-{month:02}" + (f"-{int(day):02}" if day else "")


@dataclass(frozen=True)
class Item:
    """A thing of which figures are told: a row, or of a result of one row a column. `figures` are by their measure."""

    labels: frozenset[str]
    times: frozenset[str]
    figures: dict[int, Decimal]


@dataclass(frozen=True)
class Facts:
    """All of a result that can be held against. `units` are those of the measures."""

    items: list[Item]
    units: dict[int, str]
    listed: bool
    """Whether the things are rows."""
    unfinished: frozenset[int]
    """Places of items that are under way: they are no lowest."""

    @classmethod
    def of(cls, table: ResultTable, under_way: bool = False) -> Facts:
        """Of a result; `under_way` is its last row."""
        figures = [at for at, column in enumerate(table.columns) if is_figure(column) and column.role is None]
        units = {at: table.columns[at].unit or "" for at in figures}
        if len(table.rows) == 1:
            row = table.rows[0]
            # Figures of one unit are told against one another.
            alike = {at: min(other for other in figures if units[other] == units[at]) for at in figures}
            items = [
                _item([table.columns[at].name, *_texts(row, figures)], {alike[at]: value})
                for at in figures if (value := number(row[at])) is not None
            ]  # fmt: skip
            return cls(items, units, False, frozenset())
        items = [
            _item(_texts(row, figures), {at: value for at in figures if (value := number(row[at])) is not None})
            for row in table.rows
        ]  # fmt: skip
        return cls(items, units, len(items) > 1, frozenset({len(items) - 1} if under_way and items else ()))

    @cached_property
    def measures(self) -> dict[int, list[Decimal]]:
        """All figures of each measure."""
        found: dict[int, list[Decimal]] = {}
        for item in self.items:
            for at, value in item.figures.items():
                found.setdefault(at, []).append(value)
        return found

    def said_of(self, named: Sequence[int], compared: bool = True) -> Iterator[tuple[Decimal, str]]:
        """Figures that can be told of these things: their own, what they come to together and are of all, and, where
        they are compared, how far they are apart.
        """
        for at, unit in self.units.items():
            own = [self.items[n].figures[at] for n in named if at in self.items[n].figures]
            total = sum(self.measures.get(at, []), Decimal())
            yield from ((value, unit) for value in own)
            if unit != "%" and total > 0 and len(self.items) > 1:
                yield from ((value / total * 100, "%") for value in [*own, sum(own, Decimal())])
            if len(own) > 1:
                yield sum(own, Decimal()), unit
            for one, other in permutations(own[:8] if compared else (), 2):
                yield abs(one - other), unit
                if unit != "%" and other > 0:
                    yield abs(one - other) / other * 100, "%"

    def said_of_all(self, average: bool) -> Iterator[tuple[Decimal, str]]:
        """What can be told of them together."""
        for at, values in self.measures.items():
            yield sum(values, Decimal()) / (len(values) if average else 1), self.units[at]

    def own(self, place: int) -> list[tuple[Decimal, str]]:
        """Its figures with their units."""
        return [(value, self.units[at]) for at, value in self.items[place].figures.items()]

    def is_end(self, named: Sequence[int], highest: bool) -> bool:
        """Whether these have the highest, or the lowest, figures of a measure: all of those, if they are several."""
        for at in self.measures:
            counted = {n: i.figures[at] for n, i in enumerate(self.items) if at in i.figures}
            whole = counted if highest else {n: v for n, v in counted.items() if n not in self.unfinished} or counted
            ends = sorted(whole.values(), reverse=highest)[: len(named)]
            if sorted((counted[n] for n in named if n in counted), reverse=highest) == ends:
                return True
        return False

    def rank(self, place: int) -> set[int]:
        """At which place a thing stands, by any measure, or as it is listed."""
        found = {place + 1}
        for at in self.measures:
            if at in self.items[place].figures:
                mine = self.items[place].figures[at]
                found.add(1 + sum(i.figures.get(at, mine) > mine for i in self.items))
        return found

    def above(self, one: int, other: int) -> bool | None:
        """Whether the first has more than the second by the measure that both have; None where that is not one way."""
        ways = {
            self.items[one].figures[at] > self.items[other].figures[at]
            for at in self.measures if at in self.items[one].figures and at in self.items[other].figures
        }  # fmt: skip
        return ways.pop() if len(ways) == 1 else None


def _texts(row: Sequence[object], figures: Sequence[int]) -> list[str]:
    return [str(value) for at, value in enumerate(row) if at not in figures and value is not None]


def _item(texts: Sequence[str], figures: dict[int, Decimal]) -> Item:
    times = {time for text in texts for _, _, time in times_in(text)}
    labels = {text.replace("_", " ").casefold().strip() for text in texts}
    return Item(frozenset(label for label in labels if label), frozenset(times), figures)
