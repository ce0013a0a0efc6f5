"""Comma-separated values (RFC 4180): the rows alone, as stored, so that every program reads them.

A text that a spreadsheet would take for a formula is told by an apostrophe before it; numbers stay as they are.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterable, Sequence
from typing import Any, Final

from harquel.contract import Inquiry, ResultColumn
from harquel.contract.figures import is_figure

BOM: Final = b"\xef\xbb\xbf"
"""The mark by which spreadsheets know that a file is in UTF-8."""
_FORMULAS: Final = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")
"""With what a text begins that is worked out where it is opened."""


def as_csv(inquiry: Inquiry) -> bytes:
    """The rows under the names of their columns, units with them."""
    assert inquiry.answer is not None
    table = inquiry.answer.table
    head, line = line_of(table.columns)
    return BOM + head + b"".join(map(line, table.rows))


def line_of(columns: Sequence[ResultColumn]) -> tuple[bytes, Callable[[Sequence[Any]], bytes]]:
    """The line with the names of the columns, and what makes a line of a row."""
    page = io.StringIO(newline="")
    writer = csv.writer(page)

    def line(cells: Iterable[str]) -> bytes:
        page.seek(0)
        page.truncate()
        writer.writerow(cells)
        return page.getvalue().encode("utf-8", "replace")

    kinds = tuple(map(is_figure, columns))
    return (
        line([harmless(headed(column)) for column in columns]),
        lambda row: line([_cell(value, figure) for value, figure in zip(row, kinds, strict=True)]),
    )


def headed(column: ResultColumn) -> str:
    """The head of a column: its name, its unit in parentheses."""
    return f"{column.name} ({column.unit})" if column.unit else column.name


def _cell(value: Any, figure: bool) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float) or (figure and is_number(value)):
        return str(value)
    return harmless(str(value))


def is_number(value: Any) -> bool:
    """Whether a text is a number in digits, as decimals come."""
    text = str(value).removeprefix("-")
    whole, _, fraction = text.partition(".")
    return whole.isascii() and whole.isdigit() and (not fraction or (fraction.isascii() and fraction.isdigit()))


def harmless(text: str) -> str:
    """The same, with nothing in it that is worked out where it is opened."""
    return f"'{text}" if text.startswith(_FORMULAS) else text
