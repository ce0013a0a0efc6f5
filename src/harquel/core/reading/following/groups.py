"""Figures for each of something else: "per month instead", "by vessel"."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, get_args

from harquel.core.briefing.index import CatalogIndex
from harquel.core.briefing.words import name_stems, split, stem
from harquel.core.domain.catalog import Column, Table
from harquel.core.reading.following.said import Changing, NoChange, Said
from harquel.core.reading.paths import NoControl, table_named, way_to
from harquel.core.reading.value import Per, Reading, Unit
from harquel.core.review.calendar import is_temporal

_UNITS: Final = frozenset(get_args(Unit))
_LONGEST: Final = 3
"""Words that what figures are given for is named by."""


def of_group(changing: Changing, said: Said, index: CatalogIndex) -> None:
    """Takes the words that say for each of what figures are wanted. Raises NoChange where it cannot be told."""
    each = [
        n for n in said.left if said.words[n].low in said.spoken.each and said.words[n].low not in said.spoken.leads
    ]
    if not each:
        return
    reading = changing.reading
    chosen = [*(order.by for order in reading.order), *(kept.within for kept in reading.keep)]
    made = reading.across is not None or reading.each is not None or reading.tally or not reading.figures
    if len(each) > 1 or len(reading.per) > 1 or made or any(isinstance(by, str) for by in chosen):
        raise NoChange
    for many in range(_LONGEST, 0, -1):
        named = range(each[0] + 1, each[0] + 1 + many)
        if named.stop <= len(said.words) and not any(said.light(n) for n in named):
            per = _per(said, named, reading, index)
            if per is not None:
                _put(changing, said, range(each[0], named.stop), per)
                return
    raise NoChange


def _per(said: Said, named: range, reading: Reading, index: CatalogIndex) -> Per | None:
    unit = said.words[named.start].known
    if len(named) == 1 and unit in _UNITS:
        return Per.model_validate({"column": _dated(reading, index), "unit": unit})
    words = tuple(map(stem, split(said.written(named))))
    columns = list(_columns(words, reading, index))
    return Per(column=columns[0]) if len(columns) == 1 else None


def _dated(reading: Reading, index: CatalogIndex) -> str:
    """The time that dates the rows: that of the groups until now, of the period, of the measure, of the table. Raises
    NoChange where no time was asked about: by which of them they are dated nobody has said then.
    """
    if not reading.during and not any(p.unit for p in reading.per):
        raise NoChange
    measures = (index.notes.measures.get(f.of) for f in reading.figures if isinstance(f.of, str))
    told = [
        *(p.column for p in reading.per if p.unit), *(t.column for t in reading.during),
        *(m.when for m in measures if m is not None), index.notes.of(reading.rows).when,
    ]  # fmt: skip
    found = next((column for column in told if column), None)
    if found is None:
        raise NoChange
    return found if "." in found else f"{reading.rows}.{found}"


def _columns(words: tuple[str, ...], reading: Reading, index: CatalogIndex) -> Iterator[str]:
    """The columns of that name: of the rows themselves, and the names of things that they point at."""
    base = table_named(reading.rows, index.catalog)
    for column in base.columns:
        about = index.notes.of(base.name).columns.get(column.name)
        called = [name_stems(column.name), *(name_stems(s) for s in (about.synonyms if about is not None else ()))]
        points = any(column.name in key.columns for key in base.foreign_keys)
        if words in called and not is_temporal(column) and not points:
            yield f"{base.name}.{column.name}"
    for table in index.catalog.tables:
        called = [name_stems(table.plain), *(name_stems(s) for s in index.notes.of(table.name).synonyms)]
        label = _label(table, index)
        if words in called and table is not base and label is not None and _leads(table, label, base, index):
            yield f"{table.name}.{label.name}"


def _label(table: Table, index: CatalogIndex) -> Column | None:
    """The column that names its rows."""
    return table.column(index.notes.of(table.name).label or "name")


def _leads(table: Table, column: Column, base: Table, index: CatalogIndex) -> bool:
    try:
        way_to(f"{table.name}.{column.name}", base, index.catalog)
    except NoControl:
        return False
    return True


def _put(changing: Changing, said: Said, places: range, per: Per) -> None:
    words = said.written(places)
    old = changing.reading.per
    if not old:
        changing.add(words, " ")
    else:
        changing.put(old[0].words, words)
    changing.change(per=(per.model_copy(update={"words": words}),))
    said.take(places)
