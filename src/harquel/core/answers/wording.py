"""The sentence over a result, made by us from the figures: the same result gives the same words."""

from __future__ import annotations

from typing import Any

from harquel.contract.figures import written
from harquel.core.domain.inquiry import ResultColumn, ResultTable


def word(table: ResultTable) -> str:
    """One or two sentences: the figure itself when there is one, otherwise how many rows and the ends."""
    rows, columns = table.rows, table.columns
    if not rows:
        return "Nothing in the data meets these conditions."
    if len(rows) == 1:
        parts = [f"{_label(c)}: {figure(v, c)}" for c, v in zip(columns, rows[0], strict=True)]
        return _sentence("; ".join(parts))
    more = "more than " if table.cut_by else ""
    head = f"{more}{len(rows):,} rows. " if len(rows) > 2 else ""
    first, last = _row(columns, rows[0]), _row(columns, rows[-1])
    if len(rows) == 2:
        return _sentence(f"{first}; {last}")
    return _sentence(f"{head}First: {first}. Last: {last}")


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:] + ("" if text.endswith(".") else ".")


def _row(columns: list[ResultColumn], row: list[Any]) -> str:
    """The naming columns first, then the figures with their labels; at most four columns are said."""
    names = [str(v) for c, v in zip(columns, row, strict=True) if isinstance(v, str) and c.type == "text"]
    figures = [
        f"{_label(c)} {figure(v, c)}"
        for c, v in zip(columns, row, strict=True)
        if not (isinstance(v, str) and c.type == "text")
    ]
    said = ", ".join(names[:3] + figures[: max(1, 4 - len(names))])
    return said or "empty row"


# Endings of column names that only repeat the unit.
_UNIT_WORDS = {"EUR": "eur", "%": "percent", "knots": "kn", "nautical miles": "nm", "m": "m", "km": "km"}


def _label(column: ResultColumn) -> str:
    words = column.name.replace("_", " ").split()
    if len(words) > 1 and column.unit and words[-1].lower() == _UNIT_WORDS.get(column.unit):
        words.pop()
    return " ".join(words) or "value"


def figure(value: Any, column: ResultColumn) -> str:
    """A value as people write it, the unit after it."""
    if value is None:
        return "no value"
    text = written(value, column)
    return f"{text} {column.unit}" if column.unit else text
