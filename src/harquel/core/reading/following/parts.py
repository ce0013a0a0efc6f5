"""What a figure can be taken apart by: who asks why is shown the parts of it, by what sets them apart most."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Any, Final

from harquel.core.briefing.index import CatalogIndex
from harquel.core.domain.catalog import Table
from harquel.core.language import pack
from harquel.core.language.say import say
from harquel.core.reading.following.said import Changing, Said
from harquel.core.reading.paths import NoControl, table_named, way_to
from harquel.core.reading.value import Per, Reading

MOST: Final = 6
"""Ways to take a figure apart that are looked at."""
_VALUES: Final = 30
"""Values that a column may have for its parts to tell anything."""
_PLAIN: Final = re.compile(r"[^\W_]+(?: [^\W_]+){0,3}")


def asks_why(said: str, language: str) -> bool:
    """Whether nothing but a reason is asked for."""
    spoken = pack(language)
    words = Said(said, spoken).words
    return any(w.low in spoken.why for w in words) and all(
        w.low in spoken.why | spoken.leads | spoken.light for w in words
    )


def parts_of(reading: Reading, question: str, language: str, index: CatalogIndex) -> Iterator[Changing]:
    """The same figure for each of what it can be taken apart by, each with its question; none of what is a list or is
    given for each of something already.
    """
    made = reading.across is not None or reading.each is not None or reading.tally or reading.top is not None
    if reading.per or len(reading.figures) != 1 or made or reading.others:
        return
    try:
        base = table_named(reading.rows, index.catalog)
    except NoControl:
        return
    fixed = {condition.column.rpartition(">")[2].rpartition(".")[2] for condition in reading.only if condition.column}
    found = 0
    for name, called in _by(base, index):
        if found < MOST and name.rpartition(".")[2] not in fixed and _PLAIN.fullmatch(called):
            words = say(language, "follow-per", words=called)
            changing = Changing(question, reading)
            changing.add(words, ", ")
            changing.change(per=(Per(column=name, words=words),))
            found += 1
            yield changing


def _by(base: Table, index: CatalogIndex) -> Iterator[tuple[str, str]]:
    """Columns of few values, and what few rows of other tables are called that these point at."""
    about = index.notes.of(base.name).columns
    keys = {name for key in base.foreign_keys for name in key.columns}
    for column in base.columns:
        codes = about[column.name].codes if column.name in about else {}
        few = bool(codes) or (column.kind == "text" and 1 < (column.distinct or 0) <= _VALUES)
        if few and column.name not in keys and not column.primary_key:
            yield f"{base.name}.{column.name}", column.name.replace("_", " ")
    for key in base.foreign_keys:
        other = index.catalog.table(key.table)
        label = other.column(index.notes.of(other.name).label or "name") if other is not None else None
        if other is None or label is None or not 1 < (other.row_count or 0) <= _VALUES:
            continue
        name = f"{other.name}.{label.name}"
        try:
            way_to(name, base, index.catalog)
        except NoControl:
            continue
        yield name, other.plain.replace("_", " ")


def apart(rows: Sequence[Sequence[Any]]) -> float:
    """How much one part stands out of so many, from 0 to 1: by its share beyond an even one."""
    figures = [abs(float(row[-1])) for row in rows if isinstance(row[-1], int | float) or _numeric(row[-1])]
    whole = sum(figures)
    return max(figures) / whole - 1 / len(figures) if len(figures) > 1 and whole else 0.0


def _numeric(value: object) -> bool:
    try:
        float(str(value))
    except ValueError:
        return False
    return True
