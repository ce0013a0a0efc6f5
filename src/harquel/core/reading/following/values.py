"""Another value in a condition, or one more condition: "and for Saltreach?", "only the cancelled ones"."""

from __future__ import annotations

from dataclasses import dataclass

from harquel.core.briefing.index import CatalogIndex
from harquel.core.briefing.words import fold, split, stem
from harquel.core.language.say import say
from harquel.core.reading.following.said import Changing, NoChange, Said
from harquel.core.reading.ground import pieces
from harquel.core.reading.paths import table_named, way_to
from harquel.core.reading.value import Condition, Figure

_Column = tuple[str, str]
"""A table and a column of it."""


@dataclass(frozen=True)
class _Place:
    """A condition of a reading: of its rows, or (by its place) of one of its figures."""

    figure: int | None
    at: int
    condition: Condition
    column: _Column


def of_value(changing: Changing, said: Said, run: range, index: CatalogIndex) -> _Column:
    """Takes words that name a value of the data, and tells of which column. Raises NoChange, NoControl where they do
    not, or not of one column.
    """
    places, others = _places(changing, index)
    meant = _meant(said.written(run), index) | _seen(said.written(run), places, index)
    there = [p for p in places if p.column in meant]
    if others & meant.keys():
        raise NoChange
    direction = _direction(said, run)
    if len(there) == 1:
        if not set(direction) <= set(there[0].condition.words.casefold().split()):
            raise NoChange
        column = there[0].column
        _replace(changing, there[0], said.written(run), meant[column])
    elif not there:
        column = _add(changing, said, range(run.start - len(direction), run.stop), meant, index)
    else:
        raise NoChange
    said.take(run)
    return column


def _seen(text: str, places: list[_Place], index: CatalogIndex) -> dict[_Column, str]:
    """The columns of conditions that hold a text, however short it is."""
    found = {}
    for place in places:
        table = index.catalog.table(place.column[0])
        column = table.column(place.column[1]) if table is not None else None
        for value in (*column.samples, *column.options) if column is not None else ():
            if fold(str(value)) == fold(text):
                found[place.column] = str(value)
    return found


def _meant(text: str, index: CatalogIndex) -> dict[_Column, str]:
    """The columns in which a text is a value, with the value as it is stored."""
    words = tuple(map(stem, split(text)))
    found: dict[_Column, str] = {}
    for hit in index.values.get(words, ()):
        table = index.catalog.tables[hit.table]
        column = table.columns[hit.column]
        stored = next(v for v in (*column.samples, *column.options) if tuple(map(stem, split(str(v)))) == words)
        found[table.name, column.name] = str(stored)
    for table in index.catalog.tables:
        for name, about in index.notes.of(table.name).columns.items():
            code = about.code_of(text)
            if code is not None and table.column(name) is not None:
                found[table.name, name] = code
    return found


def _places(changing: Changing, index: CatalogIndex) -> tuple[list[_Place], set[_Column]]:
    """The plain conditions with one value, and the columns of those that are otherwise. Raises NoChange where one is on
    more than a column.
    """
    reading = changing.reading
    base = table_named(reading.rows, index.catalog)
    found: list[tuple[int | None, int, Condition]] = [(None, n, c) for n, c in enumerate(reading.only)]
    found += [(f, n, c) for f, figure in enumerate(reading.figures) for n, c in enumerate(figure.only)]
    if len(found) != len(list(reading.conditions())):
        raise NoChange
    plain, others = list[_Place](), set[_Column]()
    for figure, at, condition in found:
        if condition.column is None:
            raise NoChange
        way = way_to(condition.column, base, index.catalog)
        column = way.table.name, way.column.name
        one = len(condition.values) == 1 and condition.unit is None
        if one and not condition.turned and condition.how in ("equal", "in"):
            plain.append(_Place(figure, at, condition, column))
        else:
            others.add(column)
    return plain, others


def of_number_value(changing: Changing, said: Said, index: CatalogIndex) -> None:
    """Takes a number that stands behind the words of a condition: "and of priority 2?". Raises NoChange where it could
    be meant for none of them.
    """
    for run in said.runs():
        before = said.words[run.start - 1].low if run.start else ""
        if len(run) != 1 or not said.words[run.start].low.isdigit() or before not in said.named:
            continue
        places, _ = _places(changing, index)
        numbered = [p for p in places if str(p.condition.values[0]).isdigit()]
        fit = [p for p in numbered if before in p.condition.words.casefold().split()]
        if len(fit) != 1:
            raise NoChange
        _replace(changing, fit[0], said.written(run), int(said.words[run.start].text))
        said.take(run)


def _direction(said: Said, run: range) -> list[str]:
    """The word right before a value that says from where or to where, where there is one."""
    before = said.words[run.start - 1].low if run.start else ""
    return [before] if before in said.spoken.directions else []


def _replace(changing: Changing, place: _Place, text: str, value: str | int) -> None:
    """Another value in a condition, and in its words what names it."""
    old = place.condition
    quoted = pieces(old.words)
    if len(quoted) != 1:
        raise NoChange
    named = str(old.values[0])
    at = fold(quoted[0]).find(fold(named))
    whole = len(fold(quoted[0])) == len(quoted[0]) and at >= 0
    gone = quoted[0][at : at + len(named)] if whole else quoted[0]
    changing.put(gone, text)
    new = old.model_copy(update={"values": (value,), "words": quoted[0].replace(gone, text)})
    if place.figure is None:
        only = changing.reading.only
        changing.change(only=(*only[: place.at], new, *only[place.at + 1 :]))
        return
    figures = list(changing.reading.figures)
    narrowed: Figure = figures[place.figure]
    only = (*narrowed.only[: place.at], new, *narrowed.only[place.at + 1 :])
    figures[place.figure] = narrowed.model_copy(update={"only": only})
    changing.change(figures=tuple(figures))


def _add(
    changing: Changing, said: Said, places: range, meant: dict[_Column, str], index: CatalogIndex
) -> _Column:  # fmt: skip
    """One more condition: on a column of the rows themselves, or by the name of what they point at in one way only."""
    base = table_named(changing.reading.rows, index.catalog)
    own = [column for column in meant if column[0] == base.name]
    named = own or [c for c in meant if index.notes.of(c[0]).label == c[1]]
    if len(named) != 1:
        raise NoChange
    name = ".".join(named[0])
    way_to(name, base, index.catalog)
    words = say(said.spoken.code, "follow-only", words=said.written(places))
    changing.add(words, ", ")
    added = Condition(column=name, values=(meant[named[0]],), words=words)
    changing.change(only=(*changing.reading.only, added))
    return named[0]
