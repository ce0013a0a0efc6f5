"""Charts: what is drawn of an answer's rows, and what can be wished of it."""

from __future__ import annotations

from typing import Any, Final, Literal

from pydantic import Field

from .base import Input, Shape

ChartKind = Literal["line", "bars", "columns", "parts", "points", "grid"]
"""A line over time; bars that lie, with names beside them; columns that stand; parts of a ring; points of two figures;
a grid of two things with a shade for each figure.
"""
Span = Literal["year", "quarter", "month", "week", "day", "weekday", "hour", "instant", "fiscal year", "fiscal quarter"]
"""What the values of a column of times are."""
RowOrder = Literal["rows", "natural", "largest"]
"""As the rows come, as times and numbers follow one another, or the largest figure first."""
MOST_PLACES: Final = 100
"""Places along a chart that are drawn at most."""


class ChartColumn(Shape):
    """A column of the table that can be drawn."""

    at: int
    """Its place in the table, from 0."""
    label: str
    """What it is called."""
    figure: bool
    """Whether its figures are drawn; otherwise it tells the rows apart."""
    span: Span | None = None
    """What its values are where they are times; null for others."""


class Chart(Shape):
    """Which columns of the table are drawn, and how; `GET inquiries/{id}/chart` draws it."""

    kind: ChartKind
    """How it is drawn."""
    title: str
    """What it shows."""
    along: int | None = None
    """The column whose values stand along the chart; null: the figures stand beside one another."""
    colour: int | None = None
    """The column that is told apart by colour."""
    figures: list[int]
    """The columns whose figures are drawn."""
    columns: list[ChartColumn] = []
    """All columns that can be drawn."""
    order: RowOrder = "rows"
    """In which order its places come."""
    top: int = 20
    """How many places, or lines, are drawn at most; the rest are named beneath the title."""
    under_way: bool = False
    """Whether the last time that is drawn is not over yet."""
    whole: bool = False
    """Whether the figures are parts of one whole."""
    fits: list[ChartKind] = []
    """The kinds that these rows can be drawn as."""


class ChartWish(Input):
    """How the rows of an answer are to be drawn; what is not said stays as we chose it."""

    kind: ChartKind | None = None
    """How to draw it."""
    top: int | None = Field(default=None, ge=1, le=MOST_PLACES)
    """How many places are drawn at most."""
    figure: int | None = Field(default=None, ge=0)
    """The column of the table whose figures are drawn, from 0."""
    along: int | None = Field(default=None, ge=0)
    """The column whose values stand along the chart, from 0."""
    colour: int | None = Field(default=None, ge=0)
    """The column that is told apart by colour, from 0."""
    say: str = Field(default="", max_length=200)
    """The wish in words: "as a line", "only the top 20", "by vessel"."""


class DrawWish(ChartWish):
    """How the rows are to be drawn, and for which ground."""

    dark: str | None = None
    """1: for a dark ground."""


class Drawing(Shape):
    """A chart as a specification of Vega-Lite, with its rows in it."""

    chart: Chart | None
    """What is drawn; null where these rows cannot be drawn so."""
    spec: dict[str, Any] | None
    """The specification; null where nothing is drawn."""
    note: str = ""
    """What of the wish does not fit these rows, and what was done instead."""
