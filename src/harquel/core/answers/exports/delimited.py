"""Comma-separated values (RFC 4180): the rows alone, as stored, so that every program reads them.

A text that a spreadsheet would take for a formula is told by an apostrophe before it; numbers stay as they are.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from typing import Any, Final

from harquel.contract import Inquiry, ResultColumn
from harquel.contract.figures import is_figure

_FORMULAS: Final = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")
"""With what a text begins that is worked out where it is opened."""


def as_csv(inquiry: Inquiry) -> bytes:
    """The rows under the names of their columns, units with them."""
    assert inquiry.answer is not None
    table = inquiry.answer.table
    return head(table.columns) + lines(table.columns, table.rows)


def head(columns: Sequence[ResultColumn]) -> bytes:
    """The line with the names of the columns, after the mark by which spreadsheets know that a file is in UTF-8."""
    return b"\xef\xbb\xbf" + _written([[harmless(headed(column)) for column in columns]])


def lines(columns: Sequence[ResultColumn], rows: Iterable[Sequence[Any]]) -> bytes:
    """A line for each row."""
    kinds = tuple(map(is_figure, columns))
    return _written([_cell(value, figure) for value, figure in zip(row, kinds, strict=True)] for row in rows)


def _written(rows: Iterable[Sequence[Any]]) -> bytes:
    page = io.StringIO(newline="")
    csv.writer(page).writerows(rows)
    return page.getvalue().encode("utf-8", "replace")


def headed(column: ResultColumn) -> str:
    """The head of a column: its name, its unit in parentheses."""
    return f"{column.name} ({column.unit})" if column.unit else column.name


def _cell(value: Any, figure: bool) -> Any:
    """What is written as it stands: numbers and nothing, and texts that are harmless."""
    exactly = type(value)
    if exactly is str:
        return value if not value.startswith(_FORMULAS) or (figure and is_number(value)) else f"'{value}"
    if exactly is bool:
        return "true" if value else "false"
    return value if value is None or exactly is int or exactly is float else harmless(str(value))


def is_number(value: Any) -> bool:
    """Whether a text is a number in digits, as decimals come."""
    text = str(value).removeprefix("-")
    whole, _, fraction = text.partition(".")
    return whole.isascii() and whole.isdigit() and (not fraction or (fraction.isascii() and fraction.isdigit()))


def harmless(text: str) -> str:
    """The same, with nothing in it that is worked out where it is opened."""
    return f"'{text}" if text.startswith(_FORMULAS) else text
