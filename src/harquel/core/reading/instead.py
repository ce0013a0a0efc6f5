"""What a part of a reading could have meant instead, among what catalog and notes offer: another time, another code.

Each is a question of its own, that says so: whoever asked can take it with a click, and nobody has to guess it.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.notes import ColumnNotes, Notes
from harquel.core.domain.understood import Lasting
from harquel.core.language.say import said_as
from harquel.core.reading.ground import pieces
from harquel.core.reading.paths import NoControl, Way, table_named, way_to
from harquel.core.reading.value import Condition, Reading, Time
from harquel.core.review.calendar import is_temporal

MOST: Final = 24
"""In all, and of one part."""
_LONGEST: Final = 80
"""Characters of a name or a meaning that is offered."""


@dataclass(frozen=True)
class Instead:
    """One offer: for which part of how the question was understood (from 0), what it is called, the question that is
    asked when it is taken, and how that would be read.
    """

    part: int
    label: str
    question: str
    reading: Reading
    lasting: Lasting | None = None


def instead_of(reading: Reading, question: str, catalog: Catalog, notes: Notes) -> list[Instead]:
    """The offers, in the order of the parts; none where the reading cannot be followed."""
    try:
        base = table_named(reading.rows, catalog)
        found = list(_codes(reading, question, base, catalog, notes))
        found += _times(reading, question, base, catalog, notes)
    except NoControl:
        return []
    return found[:MOST]


def _codes(reading: Reading, question: str, base: Table, catalog: Catalog, notes: Notes) -> Iterator[Instead]:
    """Other meanings of the codes of a column that the question names one of: no-shows, not cancelled ones."""
    for part, condition in enumerate(reading.only, 1):
        meant = _one_value(condition)
        words = pieces(condition.words)
        if meant is None or condition.column is None or len(words) != 1 or question.count(words[0]) != 1:
            continue
        way = way_to(condition.column, base, catalog)
        about = notes.of(way.table.name).columns.get(way.column.name, ColumnNotes())
        for code, meaning in about.codes.items():
            if meant.casefold() not in (str(code).casefold(), meaning.casefold()):
                lasting = _word(way, words[0], str(code), about)
                only = list(reading.only)
                only[part - 1] = condition.model_copy(update={"values": (str(code),)})
                meant_so = reading.model_copy(update={"only": tuple(only)})
                yield Instead(part, _short(meaning), question.replace(words[0], meaning), meant_so, lasting)


def _word(way: Way, word: str, code: str, about: ColumnNotes) -> Lasting | None:
    """What people call a code: a word that has no other meaning there."""
    if about.code_of(word) is not None or word in about.codes:
        return None
    return Lasting(table=way.table.name, column=way.column.name, word=word, code=code)


def _one_value(condition: Condition) -> str | None:
    plain = condition.how in ("equal", "in") and len(condition.values) == 1 and not condition.turned
    return str(condition.values[0]) if plain and condition.other is None and condition.unit is None else None


def _times(reading: Reading, question: str, base: Table, catalog: Catalog, notes: Notes) -> Iterator[Instead]:
    """Other times by which the rows can be dated: by when it was booked, or by when the ship leaves."""
    first = 1 + len(reading.only)
    for part, time in enumerate(reading.during, first):
        agreed = _agreed(reading, notes)
        taken = _dated_by(time, agreed, base, notes)
        for table, column in _datable(base, catalog, notes):
            if f"{table.name}.{column.name}".casefold() == taken:
                continue
            what, of = _short(column.name.replace("_", " ")), _short(table.plain.replace("_", " "))
            named = f"{what} of {of}"
            # An agreed measure says itself what dates its rows.
            name = column.name if table is base else f"{table.name}.{column.name}"
            lasting = Lasting(table=base.name, column=name) if agreed is None else None
            meant_so = _dated(reading, taken, name, base, notes)
            label = said_as("instead-dated-by", what=what, of=of)
            yield Instead(part, label, f"{question} (meaning: {named} decides)", meant_so, lasting)


def _dated(reading: Reading, taken: str, name: str, base: Table, notes: Notes) -> Reading:
    """The same by another time, where that one dates its rows or tells its groups apart."""
    agreed = _agreed(reading, notes)
    during = tuple(
        t.model_copy(update={"column": name}) if _dated_by(t, agreed, base, notes) == taken else t
        for t in reading.during
    )
    per = tuple(
        p.model_copy(update={"column": name}) if p.unit and _whole(p.column, base) == taken else p for p in reading.per
    )
    return reading.model_copy(update={"during": during, "per": per})


def _whole(name: str, base: Table) -> str:
    column = name.rpartition(">")[2]
    return (column if "." in column else f"{base.name}.{column}").casefold()


def _agreed(reading: Reading, notes: Notes) -> str | None:
    measures = (notes.measures.get(f.of) for f in reading.figures if f.figure == "measure" and isinstance(f.of, str))
    return next((m.when for m in measures if m is not None and m.when), None)


def _dated_by(time: Time, agreed: str | None, base: Table, notes: Notes) -> str:
    return _whole(time.column or agreed or notes.of(base.name).when or "", base)


def _datable(base: Table, catalog: Catalog, notes: Notes) -> Iterator[tuple[Table, Column]]:
    """The times of the rows themselves, and those that date the rows that they point at."""
    yield from ((base, c) for c in base.columns if is_temporal(c))
    for key in base.foreign_keys:
        other = catalog.table(key.table)
        when = notes.of(other.name).when if other is not None else None
        column = other.column(when) if other is not None and when and "." not in when else None
        if other is not None and column is not None and is_temporal(column):
            yield other, column


def _short(name: str) -> str:
    text = re.sub(r"\s+", " ", name).strip()
    return text if len(text) <= _LONGEST else text[: _LONGEST - 1] + "…"
