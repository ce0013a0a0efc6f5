"""Values and differences of a column, as they stand in a sentence."""

from __future__ import annotations

from decimal import Decimal, InvalidOperation
from typing import Any
from unicodedata import category

from babel import Locale
from babel.numbers import get_decimal_symbol, get_group_symbol

from harquel.contract.figures import is_figure, written
from harquel.core.domain.inquiry import ResultColumn
from harquel.core.domain.notes import Notes
from harquel.core.language.say import say

_TIMES = 3
"""What is so many times as much as another is not told in percent of it."""
_UNITS = Notes().known_units
"""What everybody knows of units; those of a place end names as they are written."""


def shown(value: Any, column: ResultColumn, language: str) -> str:
    """A value, its unit after it."""
    if value is None:
        return say(language, "no-value")
    text = localised(written(value, column), column, language)
    return with_unit(text, column, language)


def with_unit(text: str, column: ResultColumn, language: str) -> str:
    """A figure with its unit after it; with the sign of a currency where the language has it."""
    if not column.unit:
        return text
    if category(column.unit[0]) != "Sc":
        return f"{text} {column.unit}"
    before = str(Locale(language).currency_formats["standard"].pattern).startswith("¤")
    if not before:
        return f"{text} {column.unit}"
    sign = "-" if text.startswith("-") else ""
    return f"{sign}{column.unit}{text.removeprefix('-')}"


def localised(text: str, column: ResultColumn, language: str) -> str:
    """The figure that is written in the English way, in that of a language."""
    if language == "en" or not is_figure(column) or column.role is not None:
        return text
    signs = {",": get_group_symbol(language), ".": get_decimal_symbol(language)}
    return "".join(signs.get(sign, sign) for sign in text)


def number(value: Any) -> Decimal | None:
    """A value as a figure; None for what is none, or has no end."""
    if isinstance(value, bool) or not isinstance(value, int | float | str):
        return None
    try:
        found = Decimal(str(value))
    except InvalidOperation:
        return None
    return found if found.is_finite() else None


def apart(one: Any, other: Any, column: ResultColumn, language: str) -> str:
    """How far two figures are apart, and what that is of the second one in percent; of percents, in points."""
    here, there = number(one), number(other)
    assert here is not None
    assert there is not None
    gap = localised(written(str(abs(here - there)), column), column, language)
    if column.unit == "%":
        return f"{gap} {say(language, 'points')}"
    text = with_unit(gap, column, language)
    if there <= 0 or here <= 0 or here > _TIMES * there:
        return text
    percent = ResultColumn(name="", type="number", decimals=1)
    share = localised(written(str(abs(here - there) / there * 100), percent), percent, language)
    return f"{text} ({share} %)"


def without_unit(name: str, unit: str | None) -> str:
    """A name in words without the unit that it ends in: that stands beside it anyway."""
    words = name.split()
    last = words[-1].casefold() if len(words) > 1 else ""
    repeats = bool(last and unit) and unit in (_UNITS.of_name(last), last, last.upper())
    return " ".join(words[: len(words) - repeats])
