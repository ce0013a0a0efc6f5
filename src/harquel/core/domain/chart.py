"""What is drawn of the rows of an answer."""

from __future__ import annotations

from dataclasses import dataclass, field

from harquel.contract.charts import ChartKind, RowOrder, Span


@dataclass(frozen=True, kw_only=True)
class ChartColumn:
    """A column of the table that can be drawn."""

    at: int
    """Its place in the table, from 0."""
    label: str
    """What it is called."""
    figure: bool
    """Whether its figures are drawn; otherwise it tells the rows apart."""
    span: Span | None = None
    """What its values are where they are times."""


@dataclass(frozen=True, kw_only=True)
class Chart:
    """Which columns of the table are drawn, and how; see the contract."""

    kind: ChartKind
    """How it is drawn."""
    title: str
    """What it shows."""
    along: int | None
    """The column whose values stand along the chart; None: the figures stand beside one another."""
    colour: int | None = None
    """The column that is told apart by colour."""
    figures: list[int]
    """The columns whose figures are drawn."""
    columns: list[ChartColumn] = field(default_factory=list)
    """All columns that can be drawn."""
    order: RowOrder = "rows"
    """In which order its places come."""
    top: int = 20
    """How many places, or lines, are drawn at most."""
    under_way: bool = False
    """Whether the last time that is drawn is not over yet."""
    whole: bool = False
    """Whether the figures are parts of one whole."""
    fits: list[ChartKind] = field(default_factory=list)
    """The kinds that these rows can be drawn as."""
