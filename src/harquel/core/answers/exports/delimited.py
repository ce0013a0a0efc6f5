"""Comma-separated values (RFC 4180): the rows alone, as stored, so that every program reads them.

A text that a spreadsheet would take for a formula is told by an apostrophe before it; numbers stay as they are.
"""

from __future__ import annotations

import csv
import io
from typing import Any, Final

from harquel.contract import Inquiry, ResultColumn
from harquel.contract.figures import is_figure

_FORMULAS: Final = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")
"""With what a text begins that is worked out where it is opened."""


def as_csv(inquiry: Inquiry) -> bytes:
    """The rows under the names of their columns, units with them."""
    assert inquiry.answer is not None
    table, page = inquiry.answer.table, io.StringIO(newline="")
    writer = csv.writer(page)
    writer.writerow(harmless(headed(column)) for column in table.columns)
    for row in table.rows:
        writer.writerow(_cell(value, column) for value, column in zip(row, table.columns, strict=True))
    # With the mark by which spreadsheets know that this is UTF-8.
    return page.getvalue().encode("utf-8-sig", "replace")


def headed(column: ResultColumn) -> str:
    """The head of a column: its name, its unit in parentheses."""
    return f"{column.name} ({column.unit})" if column.unit else column.name


def _cell(value: Any, column: ResultColumn) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float) or (is_figure(column) and is_number(value)):
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
