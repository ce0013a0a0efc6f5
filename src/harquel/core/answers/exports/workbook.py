"""A workbook (Office Open XML): the rows on one sheet, what they stand on on another. Texts are never formulas."""

from __future__ import annotations

import io
import re
from typing import Any, Final

import xlsxwriter

from harquel.contract import Inquiry, ResultColumn
from harquel.contract.figures import is_figure
from harquel.core.language.say import say

from .delimited import headed, is_number
from .grounds import grounds

_MOST: Final = 32_767
"""Characters that a cell holds."""
_EXACT: Final = 15
"""Digits that a number of a spreadsheet keeps."""
_WIDEST: Final = 60
_UNTOLD: Final = re.compile("[^\t\n\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def as_xlsx(inquiry: Inquiry) -> bytes:
    """The workbook."""
    answer = inquiry.answer
    assert answer is not None
    made, table = io.BytesIO(), answer.table
    options = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    with xlsxwriter.Workbook(made, options) as book:
        # The same inquiry gives the same bytes.
        book.set_properties({"title": _text(inquiry.question)[:250], "created": inquiry.asked_at.replace(tzinfo=None)})
        bold, wrapped = book.add_format({"bold": True}), book.add_format({"text_wrap": True, "valign": "top"})
        sheet = book.add_worksheet(say(inquiry.language, "export-result"))
        sheet.freeze_panes(1, 0)
        for at, column in enumerate(table.columns):
            sheet.write_string(0, at, _text(headed(column)), bold)
            shape = book.add_format({"num_format": _number_format(column)}) if is_figure(column) else None
            width = len(headed(column))
            for line, row in enumerate(table.rows, 1):
                _write(sheet, line, at, row[at], column, shape)
                width = max(width, len(str(row[at])[:_WIDEST]))
            sheet.set_column(at, at, min(_WIDEST, width + 2))
        told = book.add_worksheet(say(inquiry.language, "export-grounds"))
        told.set_column(0, 0, 24, bold)
        told.set_column(1, 1, 100, wrapped)
        for line, ground in enumerate(grounds(inquiry, answer)):
            told.write_string(line, 0, _text(ground.label), bold)
            told.write_string(line, 1, _text(ground.text), wrapped)
    return made.getvalue()


def _write(sheet: Any, line: int, at: int, value: Any, column: ResultColumn, shape: Any) -> None:
    if value is None:
        sheet.write_blank(line, at, None, shape)
    elif isinstance(value, bool):
        sheet.write_boolean(line, at, value)
    elif is_figure(column) and is_number(value) and sum(map(str.isdigit, str(value))) <= _EXACT:
        sheet.write_number(line, at, float(value), shape)
    elif isinstance(value, float) and value - value == 0:
        sheet.write_number(line, at, value, shape)
    else:
        # A longer number would lose digits: it stays the text that it is.
        sheet.write_string(line, at, _text(str(value)))


def _number_format(column: ResultColumn) -> str:
    if column.role is not None:
        return "0"
    places = 0 if column.type == "integer" else 2 if column.decimals is None else column.decimals
    return "#,##0" + (f".{'0' * places}" if places else "")


def _text(text: str) -> str:
    """What a cell can hold: no signs that XML has none for."""
    return _UNTOLD.sub("\ufffd", text)[:_MOST]
