"""How long something lasted: from one time of a row to another, or to the instant that the question is about."""

from __future__ import annotations

from typing import Final, Protocol

from sqlglot import exp

from harquel.core.domain.catalog import Column, Table
from harquel.core.reading.literals import TIMES, literal, moment
from harquel.core.reading.paths import NoControl
from harquel.core.reading.pieces import Place, written
from harquel.core.sql.dialects import DIALECTS
from harquel.core.sql.local_time import holds_utc

_SECONDS: Final = {"days": "86400.0", "hours": "3600.0", "minutes": "60.0"}
_OF_THE_QUESTION: Final = frozenset({"now", "today"})


class Meant(Protocol):
    """Rows whose columns are looked up by their names in a reading."""

    @property
    def place(self) -> Place:
        """Where they are."""

    def meant(self, name: str) -> tuple[exp.Column, Table, Column]:
        """A column with what it means. Raises NoControl."""


def lasted(rows: Meant, since: str, until: str, unit: str) -> exp.Expr:
    """The length of a stretch in a unit. Raises NoControl."""
    later, earlier = _ends(rows, since, until)
    seconds = written(DIALECTS[rows.place.engine].seconds, rows.place.engine, later=later, earlier=earlier)
    return exp.Div(this=exp.Paren(this=seconds), expression=exp.Literal.number(_SECONDS[unit]))


def _ends(rows: Meant, since: str, until: str) -> tuple[exp.Expr, exp.Expr]:
    """The later and the earlier end: columns of times, or the instant that the question is about."""
    place = rows.place
    columns = [rows.meant(name) for name in (until, since) if name.casefold() not in _OF_THE_QUESTION]
    for node, _, column in columns:
        if column.kind not in TIMES:
            raise NoControl(f"{node.name} holds no times.")
    # How long it took is the same in UTC, and over a night in which clocks change more than they show.
    kinds = {holds_utc(column, place.notes.calendar, place.engine) for *_, column in columns}
    found = iter([node if kinds == {True} else place.shown(node, column) for node, _, column in columns])
    made = []
    for name in (until, since):
        if name.casefold() not in _OF_THE_QUESTION:
            made.append(next(found))
            continue
        text = moment(place.now if name.casefold() == "now" else place.now[:10])
        made.append(literal(place.held(text, columns[0][2]) if columns else text))
    return made[0], made[1]
