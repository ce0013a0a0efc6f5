"""What the words around a name make of it: which figure it is, what it is compared with."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from .english import AVERAGE, COMPARE, EXTREME
from .words import EMPTY, Token, number


def function_before(low: Sequence[str], index: int) -> str:
    """ "average", "total": the function that the words before a name ask for, or nothing."""
    for word in reversed(low[max(0, index - 3) : index]):
        if word in AVERAGE:
            return "AVG"
        if word in EXTREME:
            return EXTREME[word]
        if word in ("total", "sum", "much", "altogether"):
            return "SUM"
        if word not in EMPTY or word in ("and", "per", "by", "with"):
            return ""
    return ""


def compared_after(words: Sequence[Token], at: int, taken: Collection[int]) -> tuple[str, str, int] | None:
    """ "weight above 3": the operator and the number behind a name that ends there, and the place of the number."""
    low = [word.low for word in words[at : at + 8]]
    for pattern, operator in COMPARE.items():
        for start in range(min(3, len(low))):
            end = start + len(pattern)
            if tuple(low[start:end]) == pattern and at + end < len(words) and at + end not in taken:
                value = number(words[at + end])
                if value is not None:
                    return operator, str(value), at + end
    return None


def compared_before(words: Sequence[Token], start: int) -> tuple[str, str, int] | None:
    """ "More than 200 of these": the operator and the number before a name, and the place of the number."""
    value = number(words[start - 1]) if start else None
    for pattern, operator in COMPARE.items():
        begin = start - 1 - len(pattern)
        if value is not None and begin >= 0 and tuple(w.low for w in words[begin : start - 1]) == pattern:
            return operator, str(value), start - 1
    return None


def superlative_stands(low: Sequence[str], index: int) -> bool:
    """ "at least 3" and "at most 3" rank nothing; "maximum wind" is a function."""
    return low[max(0, index - 1)] != "at"
