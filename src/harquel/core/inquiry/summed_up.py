"""A draft sums up in one row what the reading lists: how many they are, what they come to, the least and the most."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Final

from sqlglot import exp

from harquel.core.answers.agreement import MOST_ROWS, Agreement, columns_of, same_rows
from harquel.core.domain.result import Result
from harquel.core.reading import Reading
from harquel.core.review.statement import Statement

_FIGURES: Final[dict[type[exp.Expr], Callable[[Sequence[float]], float]]] = {
    exp.Sum: sum, exp.Min: min, exp.Max: max, exp.Avg: lambda values: sum(values) / len(values),
}  # fmt: skip


def sums_up(first: Result, one: Statement, other: Result, reading: Reading, least: int) -> Agreement | None:
    """What agrees where each figure of the first is worked out again from the rows of the second; None otherwise."""
    if not reading.show or len(first.rows) != 1 or len(other.rows) > MOST_ROWS or not isinstance(one.tree, exp.Select):
        return None
    figures = [p.unalias().unnest() for p in one.outer.select.expressions]
    if one.outer.groups or len(figures) != len(first.columns) or not one.outer.aggregates:
        return None
    theirs = columns_of(other)
    agrees = all(
        _again(figure, column, theirs, len(other.rows), least)
        for figure, column in zip(figures, columns_of(first), strict=True)
    )
    return Agreement(whole=bool(other.rows), in_order=True) if agrees else None


def _again(figure: exp.Expr, column: list[Any], theirs: list[list[Any]], count: int, least: int) -> bool:
    """Whether a figure comes out of the rows that are listed."""
    if isinstance(figure, exp.Count):
        return column == [count]
    works = _FIGURES.get(type(figure))
    held = [[v for v in there if v is not None] for there in theirs]
    numbers = [values for values in held if values and all(isinstance(v, int | float) for v in values)]
    return works is not None and any(same_rows([column], [[works(values)]], False, 1, least) for values in numbers)
