"""Rows as plain text in columns, for where letters are all of one width."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from harquel.contract import ResultColumn
from harquel.contract.figures import in_a_line, is_figure, written


def as_aligned(columns: Sequence[ResultColumn], rows: Sequence[Sequence[Any]], longest: int = 32) -> str:
    """A line for the heads and one a row; figures stand to the right, and a cell has at most `longest` characters."""
    cells = [[in_a_line(column.name + (f" ({column.unit})" if column.unit else ""), longest) for column in columns]]
    cells += [[in_a_line(written(v, c), longest) for v, c in zip(row, columns, strict=True)] for row in rows]
    widths = [max(map(len, column)) for column in zip(*cells, strict=True)]
    right = [is_figure(column) and column.role is None for column in columns]
    return "\n".join(
        "  ".join(
            text.rjust(width) if figure else text.ljust(width)
            for text, width, figure in zip(line, widths, right, strict=True)
        ).rstrip()
        for line in cells
    )  # fmt: skip
