"""The sentence over a result, made by us from the figures: the same result gives the same words."""

from __future__ import annotations

from typing import Any, Final

from harquel.contract.figures import written
from harquel.core.domain.inquiry import ResultColumn, ResultTable
from harquel.core.domain.units import Units
from harquel.core.language.say import say

_LONGEST: Final = 80
"""Characters of a name of the data."""


_NAMED: Final = 3
"""Rows of a list that are named."""


def word(table: ResultTable, units: Units, language: str = "en") -> str:
    """One or two sentences: the figure itself when there is one, otherwise how many rows and what the first are called.

    Which row comes first means something only where it was asked for, which is not known here.
    """
    rows, columns = table.rows, table.columns
    if not rows:
        return say(language, "rows-none")
    if len(rows) == 1:
        parts = [f"{_label(c, units)}: {figure(v, c)}" for c, v in zip(columns, rows[0], strict=True)]
        return _sentence("; ".join(parts))
    if len(rows) == 2:
        return _sentence(f"{_row(columns, rows[0], units)}; {_row(columns, rows[1], units)}")
    count = say(language, "rows-cut" if table.cut_by else "rows", n=f"{len(rows):,}")
    named = [n for n, column in enumerate(columns) if column.type == "text"]
    # A name that stands in several rows is said once.
    told = list(dict.fromkeys(str(row[named[0]]) for row in rows if row[named[0]] is not None)) if named else []
    called = told[:_NAMED]
    if not called or max(map(len, called)) > _LONGEST:
        return say(language, "rows-alone", rows=count)
    more = len(told) - len(called) + any(row[named[0]] is None for row in rows)
    if more:
        return say(language, "rows-named-more", rows=count, names=", ".join(called), more=f"{more:,}")
    return say(language, "rows-named", rows=count, names=", ".join(called))


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:] + ("" if text.endswith(".") else ".")


def _row(columns: list[ResultColumn], row: list[Any], units: Units) -> str:
    """The naming columns first, then the figures with their labels; at most four columns are said."""
    names = [str(v) for c, v in zip(columns, row, strict=True) if isinstance(v, str) and c.type == "text"]
    figures = [
        f"{_label(c, units)} {figure(v, c)}"
        for c, v in zip(columns, row, strict=True)
        if not (isinstance(v, str) and c.type == "text")
    ]
    said = ", ".join(names[:3] + figures[: max(1, 4 - len(names))])
    return said or "empty row"


def _label(column: ResultColumn, units: Units) -> str:
    words = column.name.replace("_", " ").split()
    # A name that ends in its unit only repeats it.
    if len(words) > 1 and column.unit and units.of_name(words[-1]) in (column.unit, units.numerator(column.unit)):
        words.pop()
    return " ".join(words) or "value"


def figure(value: Any, column: ResultColumn) -> str:
    """A value as people write it, the unit after it."""
    if value is None:
        return "no value"
    text = written(value, column)
    return f"{text} {column.unit}" if column.unit else text
