"""The rows of a chart as they are drawn: places in their order, colours, values by names of our own."""

from __future__ import annotations

import datetime as dt
import math
from collections import Counter
from collections.abc import Hashable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, Final

from harquel.contract.charts import Span
from harquel.core.answers.charts.look import Look
from harquel.core.answers.charts.seen import begins
from harquel.core.answers.sentence.figures import number, shown
from harquel.core.domain.chart import Chart, ChartColumn
from harquel.core.domain.inquiry import ResultColumn, ResultTable
from harquel.core.language.say import say
from harquel.core.language.when import bucket

_LONGEST: Final = 48
"""Characters of a name of the data: more have no room, and cost whoever draws them seconds."""
_REST: Final = 3
"""Places that are not drawn and named."""
_FLAT: Final = 0.3
"""A line that moves less than this part of its height need not begin at zero."""
_HUGE: Final = Decimal(10) ** 200
_WEEK: Final = ("1", "2", "3", "4", "5", "6", "0")


@dataclass(frozen=True)
class Place:
    """A value that the chart goes along, or is coloured by."""

    value: Hashable
    name: str
    begins: dt.datetime | None = None


class Drawing:
    """One chart of one table."""

    def __init__(self, chart: Chart, table: ResultTable, language: str, look: Look) -> None:
        self.chart, self.table, self.language, self.look = chart, table, language, look
        self.known = {c.at: c for c in chart.columns}
        self.along = None if chart.along is None else self.known[chart.along]
        self.colour = None if chart.colour is None else self.known[chart.colour]
        self.figures = [table.columns[at] for at in chart.figures]
        self.labels = [self.known[at].label for at in chart.figures]
        self.places = self._places()
        self.shades = self._shades()
        self.drawn = self._drawn()
        self.values = self._values()

    # -- what is drawn ---------------------------------------------------------------------------

    def _places(self) -> list[Place]:
        along, chart = self.along, self.chart
        if along is None:
            return []
        places = self._named(along)
        if chart.kind == "line":
            return sorted(places, key=lambda p: p.begins or dt.datetime.max)
        if chart.order == "natural":
            return sorted(places, key=lambda p: _follows(p, along.span))
        if chart.order == "rows":
            return places
        worth = {row[along.at]: number(row[chart.figures[0]]) or 0 for row in self.table.rows}
        return sorted(places, key=lambda p: worth[p.value], reverse=True)

    def _named(self, column: ChartColumn) -> list[Place]:
        found: dict[Hashable, Place] = {}
        taken: Counter[str] = Counter()
        for row in self.table.rows:
            value = row[column.at]
            if value not in found:
                name = self._name(value, column)
                taken[name] += 1
                # Two that are called alike are two; a space that is not seen keeps them from what is called so itself.
                name = name if taken[name] == 1 else f"{name} \u2009({taken[name]})"
                found[value] = Place(value, name, begins(value, column.span) if column.span else None)
        return list(found.values())

    def _name(self, value: Any, column: ChartColumn) -> str:
        if value is None or value == "":
            return say(self.language, "unsaid")
        if isinstance(value, bool):
            return say(self.language, "yes" if value else "no")
        text = bucket(value, column.span, self.language)[0] if column.span else str(value)
        text = " ".join(text.split()) or say(self.language, "unsaid")
        return text if len(text) <= _LONGEST else text[: _LONGEST - 1] + "…"

    def _shades(self) -> list[Place]:
        """What is told apart by colour, those with the largest figures first where not all can be drawn."""
        if self.colour is None:
            return []
        shades, at = self._named(self.colour), self.chart.figures[0]
        if self.chart.kind != "line" or len(shades) <= self.chart.top:
            return shades
        sums: dict[Hashable, float] = {}
        for row in self.table.rows:
            sums[row[self.colour.at]] = sums.get(row[self.colour.at], 0.0) + abs(as_float(row[at]) or 0.0)
        return sorted(shades, key=lambda s: -sums[s.value])

    def _drawn(self) -> list[Place]:
        """The places that are drawn; of a line each, of points none is named."""
        return self.places if self.chart.kind == "line" else self.places[: self.chart.top]

    def _values(self) -> list[dict[str, Any]]:
        """The rows, by places and names of our own."""
        if self.chart.kind == "points":
            return self._cloud()
        if self.along is None:
            row = self.table.rows[0]
            return [
                {"x": label, "y": as_float(row[at]), "t": self.said(row[at], column), "c": label, "n": 0}
                for at, label, column in zip(self.chart.figures, self.labels, self.figures, strict=True)
            ]
        places = {p.value: n for n, p in enumerate(self.drawn)}
        shades = {s.value: s.name for s in self.shades[: self.chart.top if self.chart.kind == "line" else None]}
        last = self.places[-1] if self.chart.under_way and self.places else None
        found = []
        for row in self.table.rows:
            value = row[self.along.at]
            if value not in places or (self.colour is not None and row[self.colour.at] not in shades):
                continue
            place = self.drawn[places[value]]
            for at, label, column in zip(self.chart.figures, self.labels, self.figures, strict=True):
                found.append({
                    "x": place.name, "y": as_float(row[at]), "t": self.said(row[at], column), "n": places[value],
                    "c": shades[row[self.colour.at]] if self.colour is not None else label,
                    **({"w": place.begins.isoformat() + "Z"} if place.begins is not None else {}),
                    **({"open": True} if place is last else {}),
                })  # fmt: skip
        return sorted(found, key=lambda v: v["n"])

    def _cloud(self) -> list[dict[str, Any]]:
        one, other = self.chart.figures[:2]
        return [
            {
                "x": as_float(row[one]), "y": as_float(row[other]), "t": self.said(row[one], self.figures[0]),
                "u": self.said(row[other], self.figures[1]),
                "l": self._name(row[self.along.at], self.along) if self.along else "",
            }
            for row in self.table.rows
        ]  # fmt: skip

    def said(self, value: Any, column: ResultColumn) -> str:
        """A value as it stands in the table, with its unit."""
        return shown(value, column, self.language)

    def lines(self, text: str, width: int = 44) -> list[str]:
        """A title in lines that fit."""
        lines = [""]
        for word in text.split()[:60]:
            if lines[-1] and len(lines[-1]) + len(word) > width:
                lines.append("")
            lines[-1] = f"{lines[-1]} {word[:width]}".strip()
        return lines[:3]

    def subtitle(self) -> list[str]:
        """What the picture does not show by itself."""
        told = []
        left = self.shades[self.chart.top :] if self.chart.kind == "line" else self.places[len(self.drawn) :]
        if left and self.chart.kind != "points":
            names = ", ".join(p.name for p in left[:_REST]) + (", …" if len(left) > _REST else "")
            told.append(say(self.language, "chart-rest", n=f"{len(left):,}", names=names))
        if self.table.cut_by is not None:
            told.append(say(self.language, "chart-cut"))
        if self.chart.under_way and self.chart.kind in ("line", "columns"):
            told.append(say(self.language, "chart-under-way", name=self.places[-1].name))
        low = self.low()
        if low is not None:
            told.append(say(self.language, "chart-from", value=self.said(low, self.figures[0])))
        return [line for text in told for line in self.lines(text, 52)]

    def low(self) -> int | None:
        """Where the axis of a line begins that hardly moves; None: at zero."""
        found = [
            v for v in (as_float(row[at]) for row in self.table.rows for at in self.chart.figures) if v is not None
        ]
        if self.chart.kind != "line" or not found or min(found) <= 0:
            return None
        low, high = min(found), max(found)
        if high - low > _FLAT * high or high <= low:
            return None
        step = 10 ** max(0, len(str(int(high - low))) - 1)
        below = int((low - (high - low) * 0.2) // step * step)
        return below if below > 0 else None


def as_float(value: Any) -> float | None:
    """A figure as it is drawn; None for what is none, or so large that sums of it have no end."""
    found = number(value)
    return float(found) if found is not None and abs(found) < _HUGE else None


def _follows(place: Place, span: Span | None) -> tuple[dt.datetime, float]:
    """Where a place comes among times, weekdays, hours or numbers; what is none of them at the end."""
    if span == "weekday":
        return dt.datetime.min, _WEEK.index(str(place.value)) if str(place.value) in _WEEK else len(_WEEK)
    worth = as_float(place.value)
    unknown = dt.datetime.min if span in (None, "hour") else dt.datetime.max
    return place.begins or unknown, math.inf if worth is None else worth
