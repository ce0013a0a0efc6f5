"""An earlier answer's rows against those of now: which have come, which are gone, which figures moved by how much."""

from __future__ import annotations

import datetime as dt
from collections import Counter
from collections.abc import Hashable, Iterator, Sequence
from itertools import combinations
from typing import Any, Final

from harquel.contract.figures import is_figure
from harquel.core.answers.agreement import plain
from harquel.core.answers.sentence.figures import apart, number, shown, without_unit
from harquel.core.domain.again import Before, Since
from harquel.core.domain.inquiry import ResultTable
from harquel.core.language.say import say
from harquel.core.language.when import named

_NAMED: Final = 3
"""Rows that are told by name."""
_LONGEST: Final = 60
_MOST_KEYS: Final = 3
"""Columns that may tell the rows apart together."""
_WIDEST: Final = 12
_DIGITS: Final = 9


def since(before: Before, table: ResultTable, language: str) -> Since:
    """What is different; `same` is None where the rows of then are kept no more, or other columns come now."""
    found = Since(inquiry=before.inquiry, as_of=before.as_of)
    when = _when(before.as_of or before.asked_at, language)
    if before.rows is None:
        found.said = say(language, "since-unkept", when=when)
        return found
    if before.columns != [c.name for c in table.columns]:
        found.said = say(language, "since-other-columns", when=when)
        return found
    then, now = [[_coarse(v) for v in row] for row in before.rows], [[_coarse(v) for v in row] for row in table.rows]
    key = _key(then, now, table)
    parts: list[str]
    if len(then) == len(now) == 1:
        key = ()
        parts = [moved] if (moved := _moves(before.rows[0], table.rows[0], table, key, language)) else []
        found.changed = len(parts)
    elif key:
        parts = list(_by_key(found, before, table, then, now, key, language))
    else:
        parts = list(_by_rows(found, then, now, language))
    found.same = not parts
    said = say(language, "since-same", when=when) if found.same else say(
        language, "since-changed", when=when, parts="; ".join(parts)
    )  # fmt: skip
    part = say(language, "since-part") if before.cut or table.cut_by is not None else ""
    found.said = f"{said} {part}".strip()
    return found


def _when(at: dt.datetime, language: str) -> str:
    return f"{named(at, 'day', language)}, {at:%H:%M}"


def _coarse(value: Any) -> Hashable:
    """A value as it is compared: what a server adds up in another order is the same."""
    value = plain(value)
    return float(f"{value:.{_DIGITS}g}") if isinstance(value, float) else value


def _key(then: Sequence[Sequence[Hashable]], now: Sequence[Sequence[Hashable]], table: ResultTable) -> tuple[int, ...]:
    """The fewest columns that tell the rows apart, then as now; of figures none. Empty where none do."""
    places = [n for n, c in enumerate(table.columns) if not is_figure(c) or c.role is not None][:_WIDEST]
    for size in range(1, _MOST_KEYS + 1):
        for key in combinations(places, size):
            if all(len({tuple(row[n] for n in key) for row in rows}) == len(rows) for rows in (then, now)):
                return key
    return ()


def _by_rows(
    found: Since, then: Sequence[Sequence[Hashable]], now: Sequence[Sequence[Hashable]], language: str
) -> Iterator[str]:
    """Where nothing tells the rows apart: how many have come and gone. A single row has changed."""
    old, new = Counter(map(tuple, then)), Counter(map(tuple, now))
    found.come, found.gone = (new - old).total(), (old - new).total()
    if found.come:
        yield say(language, "since-come", count=found.come, n=f"{found.come:,}", names="")
    if found.gone:
        yield say(language, "since-gone", count=found.gone, n=f"{found.gone:,}", names="")


def _by_key(
    found: Since, before: Before, table: ResultTable, then: Sequence[Sequence[Hashable]],
    now: Sequence[Sequence[Hashable]], key: tuple[int, ...], language: str,
) -> Iterator[str]:  # fmt: skip
    assert before.rows is not None
    old = {tuple(row[n] for n in key): at for at, row in enumerate(then)}
    new = {tuple(row[n] for n in key): at for at, row in enumerate(now)}
    come, gone = [k for k in new if k not in old], [k for k in old if k not in new]
    moved = [k for k, at in new.items() if k in old and tuple(now[at]) != tuple(then[old[k]])]
    found.come, found.gone, found.changed = len(come), len(gone), len(moved)
    for message, keys in (("since-come", come), ("since-gone", gone)):
        if keys:
            names = ", ".join(map(_name, keys[:_NAMED])) + (", …" if len(keys) > _NAMED else "")
            yield say(language, message, count=len(keys), n=f"{len(keys):,}", names=f" ({names})")
    for k in moved[:_NAMED]:
        yield f"{_name(k)}: {_moves(before.rows[old[k]], table.rows[new[k]], table, key, language)}"
    if len(moved) > _NAMED:
        yield say(language, "since-moved", count=len(moved) - _NAMED, n=f"{len(moved) - _NAMED:,}")


def _name(key: Sequence[Hashable]) -> str:
    text = " ".join(", ".join("–" if v is None else str(v) for v in key).split())
    return text if len(text) <= _LONGEST else text[: _LONGEST - 1] + "…"


def _moves(old: Sequence[Any], new: Sequence[Any], table: ResultTable, key: tuple[int, ...], language: str) -> str:
    """What of a row is different, figures by how much."""
    told = []
    for at, column in enumerate(table.columns):
        if at in key or _coarse(old[at]) == _coarse(new[at]):
            continue
        was, is_ = (shown(v, column, language) if is_figure(column) else _name([v]) for v in (old[at], new[at]))
        here, there = number(new[at]), number(old[at])
        name = without_unit(column.name.replace("_", " "), column.unit)[:_LONGEST]
        if is_figure(column) and column.role is None and here is not None and there is not None:
            way = "since-more" if here > there else "since-less"
            told.append(say(language, way, name=name, now=is_, then=was, by=apart(new[at], old[at], column, language)))
        else:
            told.append(say(language, "since-else", name=name, now=is_, then=was))
    return ", ".join(told[:_NAMED]) + (", …" if len(told) > _NAMED else "")
