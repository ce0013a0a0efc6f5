"""Whether a draft that has run and the second way gave the same rows, in whatever form."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from itertools import product
from typing import Any

from sqlglot import exp

from harquel.core.answers import roles_of, rounds, telling_apart, units_of, worked_out
from harquel.core.answers.agreement import (
    MOST_ROWS,
    ROUNDED,
    UNROUNDED,
    Agreement,
    agreement,
    columns_of,
    plain,
    same_rows,
)
from harquel.core.answers.forms import holds
from harquel.core.domain.result import Result
from harquel.core.guard import TextRuling
from harquel.core.inquiry.called import Called, called
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.other_names import Names, renamed
from harquel.core.inquiry.summed_up import sums_up
from harquel.core.reading import NoControl, Reading, control
from harquel.core.reading.otherwise import Part, beneath, parts_of
from harquel.core.review.statement import Statement


def alike(
    course: Course, first: Result, ruled: TextRuling, other: Result, second: TextRuling, reading: Reading | None
) -> Agreement | None:
    """What agrees; None where the two say different things. `reading` is that from which the second was built."""
    found = _alike(course, first, ruled, other, second, reading)
    if found is None or not found.beside or ruled.tree is None:
        return found
    one = course.read(ruled.tree)
    chosen = reading.evidenced() if reading is not None and _made_alone(first, one, other) else None
    told = _with_evidence(course, chosen, other) if chosen is not None else None
    confirmed = _alike(course, first, ruled, told, second, chosen) if told is not None else None
    if told is not None and confirmed is not None and not confirmed.beside:
        found, other = confirmed, told
    return replace(found, beside=_made_alone(first, one, other))


def _with_evidence(course: Course, chosen: Reading, other: Result) -> Result | None:
    """What the control gives with the figures by which its rows were chosen; a draft that shows them is confirmed."""
    source = course.source
    try:
        rows = course.look(control(chosen, course.catalog, source.notes, source.engine, course.now), planned=True)
    except NoControl:
        return None
    columns = (*other.columns, *("chosen by" for _ in chosen.show[len(other.columns) :]))
    return replace(other, columns=columns, rows=rows) if rows else None


def _made_alone(first: Result, one: Statement, other: Result) -> bool:
    """Whether the first shows a figure that it made and the other has not; what a row holds is as it is stored."""
    stars = {id(node): columns for node, columns in one.names.stars}
    shown = [node for p in one.outer.select.expressions for node in stars.get(id(p), [p])]
    there = columns_of(other)
    if len(shown) != len(first.columns):
        return True
    return any(
        one.ref_at(projection.unalias(), one.outer) is None
        and any(isinstance(v, int | float) for v in column)
        and not any(same_rows([column], [its]) for its in there)
        for projection, column in zip(shown, columns_of(first), strict=True)
    )


def _alike(
    course: Course, first: Result, ruled: TextRuling, other: Result, second: TextRuling, reading: Reading | None
) -> Agreement | None:
    if ruled.tree is None or second.tree is None:
        return None
    with course.clock.phase("review"):
        one, two = (course.read(tree) for tree in (ruled.tree, second.tree))
        apart = {*product(telling_apart(one), worked_out(two)), *product(worked_out(one), telling_apart(two))}
        keys = {place for place, role in enumerate(roles_of(one)) if role is not None}
        needed = reading.asked_for(ranks=True) if reading is not None else ()
        # Where nobody rounds, 1.0 is one, and no 0.98.
        least = ROUNDED if any(rounds(s) for s in ((one,) if reading is not None else (one, two))) else UNROUNDED
        agreed = partial(agreement, exact=reading is not None, apart=apart, least=least)
        found = agreed(first, other, keys, needed)
        if found is not None:
            return found
        if reading is not None:
            found = _in_other_forms(course, first, one, other, reading, least)
            # Without the figure by which its rows were chosen it is the same as far as it goes.
            found = found or _lesser(agreed(first, other, keys, reading.asked_for()))
            found = found or sums_up(first, one, other, reading, least)
            found = found or _up_to_the_cut(first, one, other, reading, agreed)
        if found is not None:
            return found
        if len(first.rows) != len(other.rows):
            return None
        names = Names(course.source.engine, course.look, course.tells_apart)
        told = renamed(one, two, other, names)
    return next((a for a in (agreed(first, r, keys, needed) for r in told) if a is not None), None)


def in_its_units(course: Course, first: Result, ruled: TextRuling, second: TextRuling) -> Result:
    """The first as it is in the units of the second: what it says that it gives in cents, in euros as the second does.

    Only of columns whose name says the unit that the notes and the statement give them: whoever reads it knows.
    """
    if ruled.tree is None or second.tree is None or len(first.rows) > MOST_ROWS:
        return first
    catalog, notes = course.catalog, course.source.notes
    ours, theirs = (units_of(tree, course.source.engine, catalog, notes) for tree in (ruled.tree, second.tree))
    units, factors = notes.known_units, [1.0] * len(first.columns)
    for place, (name, unit) in enumerate(zip(first.columns, ours, strict=len(ours) == len(first.columns))):
        known = units.known(unit)
        if known is None or units.of_name(name) != known.name or unit in theirs:
            continue
        wanted = (u for u in map(units.known, theirs) if u is not None and u.of == known.of and u.worth != known.worth)
        factors[place] = next((known.worth / u.worth for u in wanted), 1.0)
    if all(factor == 1.0 for factor in factors):
        return first
    return replace(first, rows=[[_times(v, f) for v, f in zip(row, factors, strict=True)] for row in first.rows])


def _times(value: Any, factor: float) -> Any:
    number = plain(value)
    return number * factor if factor != 1.0 and isinstance(number, int | float) else value


def in_order(
    course: Course, first: Result, ruled: TextRuling, other: Result, second: TextRuling, reading: Reading | None
) -> bool:
    """Whether rows that are the same come as the question orders them, as far as that can be seen.

    Of two drafts neither knows what was asked for: they must not put the same figure in opposite orders.
    """
    if len(other.rows) > MOST_ROWS or ruled.tree is None or second.tree is None:
        return True
    if reading is not None:
        return _as_asked(first, other, reading)
    places = [_ordered_by(course.read(tree)) for tree in (ruled.tree, second.tree)]
    here, there = (
        columns_of(result)[place] if place is not None and place < len(result.columns) else []
        for result, place in zip((first, other), places, strict=True)
    )
    if not here or not there or not same_rows([here], [there]) or same_rows([here], [there], as_they_come=True):
        return True
    return not same_rows([here[::-1]], [there], as_they_come=True)


def _ordered_by(statement: Statement) -> int | None:
    """Which of its columns the rows of a statement are ordered by first."""
    level = statement.outer
    shown = level.select.expressions
    key = level.order[0].this if level.order else None
    if isinstance(key, exp.Literal):
        return int(key.name) - 1 if key.name.isdigit() else None
    if isinstance(key, exp.Column) and not key.table:
        named = [n for n, p in enumerate(shown) if p.alias_or_name.casefold() == key.name.casefold()]
        return named[0] if named else None
    return next((n for n, p in enumerate(shown) if key is not None and p.unalias() == key), None)


def _as_asked(first: Result, other: Result, reading: Reading) -> bool:
    """By what the control of the reading gave; which come first of a few that are wanted is seen in the rows, unless
    there are no more than those.
    """
    reading = reading.given()
    if not reading.order or (reading.top is not None and len(other.rows) >= reading.top) or reading.both:
        return True
    by, names = reading.order[0].by, [*(p.column for p in reading.per), *reading.figures, *reading.show]
    place = len(reading.per) + by if isinstance(by, int) else names.index(by) if by in names else len(names)
    there = columns_of(other)
    if place >= len(there):
        return True
    # Where rows without a value go is nobody's order.
    shown = [_held(column) for column in columns_of(first) if same_rows([column], [there[place]])]
    return not shown or any(same_rows([column], [_held(there[place])], as_they_come=True) for column in shown)


def _held(column: list[Any]) -> list[Any]:
    return [value for value in column if value is not None]


def _up_to_the_cut(
    first: Result, one: Statement, other: Result, reading: Reading, agreed: Callable[..., Agreement | None]
) -> Agreement | None:
    """What agrees but for which of the rows that are level with the last one each of the two has cut off."""
    ours, theirs = _ordered_by(one), _ranked_by(reading)
    if ours is None or theirs is None or theirs >= len(other.columns) or len(first.rows) != reading.top:
        return None
    held = [columns_of(result)[place] for result, place in ((first, ours), (other, theirs))]
    if len(other.rows) != reading.top or not same_rows([held[0]], [held[1]], exact=1):
        return None
    before, others = (
        replace(result, rows=[row for row, value in zip(result.rows, ranks, strict=True) if value != ranks[-1]])
        for result, ranks in zip((first, other), held, strict=True)
    )
    return agreed(before, others, (), reading.asked_for()) if before.rows else None


def _ranked_by(reading: Reading) -> int | None:
    """The column of a control by which it is decided which of its rows are wanted."""
    if reading.top is None or reading.both or not reading.order or not isinstance(reading.order[0].by, int):
        return None
    return len(reading.per) + reading.order[0].by


def _lesser(found: Agreement | None) -> Agreement | None:
    return replace(found, whole=False) if found is not None else None


def _in_other_forms(
    course: Course, first: Result, one: Statement, other: Result, reading: Reading, least: int
) -> Agreement | None:
    try:
        found = _formed(course, first, one, other.rows, reading, Called(()), least)
        if found is not None or not other.rows or len(other.rows) > MOST_ROWS:
            return found
        beside = called(one, reading, course.catalog)
        if not beside.columns:
            return None
        source = course.source
        sql = control(reading, course.catalog, source.notes, source.engine, course.now, beside.columns)
        rows = course.look(sql, planned=True)
        return _formed(course, first, one, rows, reading, beside, least) if rows else None
    except NoControl:
        return None


def _formed(
    course: Course, first: Result, one: Statement, rows: Sequence[Sequence[Any]], reading: Reading, beside: Called,
    least: int,
) -> Agreement | None:  # fmt: skip
    keys, made = {place for place, role in enumerate(roles_of(one)) if role is not None}, worked_out(one)
    rows = _without_nothing(rows, reading, len(first.rows))
    width = len(rows[0]) - len(beside.columns) if rows else 0
    others = beside.beside([row[width:] for row in rows])
    parts = parts_of(reading, rows, course.catalog, course.source.notes, others)
    below: list[Part] | None = beneath(reading, parts)
    found = holds(first, parts, keys, made, least)
    if found is None and below is not None:
        found = holds(first, below, keys, made, least)
        # What tells the figures apart may be the wrong way round where the reading does not say it.
        named = len(below) == len(reading.given().per) + 2
        found = replace(found, whole=found.whole and named) if found is not None else None
    return found


def _without_nothing(rows: Sequence[Sequence[Any]], reading: Reading, wanted: int) -> Sequence[Sequence[Any]]:
    """Without things of which there are none, where nobody asked for them and the draft has just so many rows."""
    places = [n for n, one in enumerate(reading.show) if not isinstance(one, str)]
    if reading.empty or not any(reading.inner()) or len(rows) <= wanted:
        return rows
    held = [row for row in rows if any(row[place] for place in places)]
    return held if len(held) == wanted else rows
