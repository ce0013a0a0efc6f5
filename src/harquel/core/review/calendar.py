"""Which columns hold times, and which unit of the calendar an expression makes of one."""

from __future__ import annotations

import datetime as dt
import re
from dataclasses import dataclass
from typing import Final

from sqlglot import exp

from harquel.core.domain.catalog import Column
from harquel.core.review.statement import Ref, Statement, called, plain

_ISO: Final = re.compile(r"(\d{4})-(\d\d)(?:-(\d\d))?(?:[T ](\d\d):(\d\d)(?::(\d\d)(?:\.\d+)?)?)?Z?\Z")
_NAMED: Final = re.compile(r"(?:^|_)(?:day|date|on|at|time)$")
_FORMATS: Final = {
    "%Y": "year", "YYYY": "year", "%Y-%m": "month", "YYYY-MM": "month", "%m": "month of year", "MM": "month of year",
    "%Y-%m-%d": "day", "YYYY-MM-DD": "day", "%d": "day of month", "DD": "day of month", "%H": "hour of day",
    "HH24": "hour of day", "%w": "weekday", "ID": "weekday", "D": "weekday", "%W": "week of year", "IW": "week of year",
    "%u": "week of year", "%Y-%W": "week", "IYYY-IW": "week", "%Y-%u": "week", "%x-%v": "week", "%j": "day of year",
    "%Y-%m-%d %H": "hour", "%a": "weekday", "DAY": "weekday", "%M": "month of year", "%b": "month of year",
}  # fmt: skip
_PARTS: Final = {
    "YEAR": "year", "MONTH": "month of year", "DAY": "day of month", "HOUR": "hour of day", "DOW": "weekday",
    "ISODOW": "weekday", "WEEK": "week of year", "QUARTER": "quarter of year", "DAYOFWEEK": "weekday",
    "WEEKDAY": "weekday", "DAYOFMONTH": "day of month", "WEEKOFYEAR": "week of year", "DAYNAME": "weekday",
    "MONTHNAME": "month of year",
}  # fmt: skip


def is_temporal(column: Column) -> bool:
    """Whether it holds dates or times, by type or by what it holds."""
    if column.kind == "temporal":
        return True
    known = [column.low] if column.low is not None else list(column.samples[:3])
    if not known:
        # Nothing was read from it, as from a view: its name has to do.
        return column.kind == "other" and _NAMED.search(column.name.casefold()) is not None
    return all(moment(v) is not None for v in known)


def is_year(column: Column) -> bool:
    """Whether it holds years as numbers."""
    return column.kind == "number" and re.search(r"(?:^|_)year$", column.name.casefold()) is not None


def whole_days(column: Column) -> bool:
    """Whether it holds dates without a time of day."""
    known = column.low if column.low is not None else next(iter(column.samples), None)
    if isinstance(known, str):
        return len(known) == 10
    if column.kind == "other":
        return re.search(r"(?:^|_)(?:day|date|on)$", column.name.casefold()) is not None
    return column.type.upper() == "DATE"


def moment(text: object) -> dt.datetime | None:
    """A text in ISO 8601, a day or a month standing for its beginning."""
    match = _ISO.match(text) if isinstance(text, str) else None
    if match is None:
        return None
    year, month, day, hour, minute, second = match.groups()
    try:
        return dt.datetime(int(year), int(month), int(day or 1), int(hour or 0), int(minute or 0), int(second or 0))
    except ValueError:
        return None


@dataclass(frozen=True)
class Timed:
    """A side of a comparison that is made of one column of times. `unit` is empty for the moment itself."""

    ref: Ref
    unit: str = ""


def timed(node: exp.Expr, statement: Statement) -> Timed | None:
    """Reads an expression as a moment, a day, or a part of the calendar, of one column."""
    while isinstance(node, exp.Paren | exp.Cast) or (called(node) in ("DATETIME", "TIMESTAMP") and node.expressions):
        if isinstance(node, exp.Cast) and node.to.this == exp.DataType.Type.DATE:
            inner = timed(node.this, statement)
            return Timed(inner.ref, "day") if inner is not None and not inner.unit else inner
        if called(node) and len(node.expressions) > 1:
            return None
        node = node.expressions[0] if called(node) else node.this
    if isinstance(node, exp.Column):
        ref = statement.ref(node)
        if ref is not None and is_year(ref.column):
            return Timed(ref, "year")
        return Timed(ref) if ref is not None and is_temporal(ref.column) else None
    source, unit = _part(node)
    inner = timed(source, statement) if source is not None else None
    return Timed(inner.ref, unit) if inner is not None else None


def calendar_unit(node: exp.Expr, statement: Statement) -> str:
    """The unit of the calendar that an expression makes of a column of times; empty where it does not."""
    found = timed(node, statement)
    if found is None:
        thirds = any(plain(_bare(d.expression)) == 3.0 for d in node.find_all(exp.Div, exp.IntDiv))
        parts = [t.unit for n in node.find_all(exp.Anonymous, exp.Extract) if (t := timed(n, statement)) and t.unit]
        if thirds and "month of year" in parts:  # months by threes are quarters
            if not _makes_quarters(node):
                return ""
            return "quarter" if "year" in parts else "quarter of year"
        for unit in ("month", "quarter", "week"):
            if "year" in parts and f"{unit} of year" in parts:
                return unit
        return parts[0] if parts else ""
    if not found.unit and whole_days(found.ref.column):
        return "day"
    return found.unit


def _makes_quarters(node: exp.Expr) -> bool:
    """Whether the months that come to the same are those of a quarter: (m + 2) / 3, not m / 3. Whole numbers."""
    made = [_reckoned(node, month) for month in range(1, 13)]
    if None in made:
        return True  # it is written in a way that is not reckoned here
    return all((made[i] == made[j]) == (i // 3 == j // 3) for i in range(12) for j in range(12))


def _bare(node: exp.Expr) -> exp.Expr:
    """An expression without what only guards it: parentheses, casts, NULLIF(3, 0)."""
    while isinstance(node, exp.Paren | exp.Cast | exp.Nullif) or (called(node) == "NULLIF" and node.expressions):
        node = node.expressions[0] if node.expressions else node.this
    return node


def _reckoned(node: exp.Expr, month: int) -> int | None:
    """What arithmetic on the number of a month comes to."""
    node = _bare(node)
    value = plain(node)
    if isinstance(value, float) and value.is_integer():
        return int(value)
    if _part(node)[1] == "month of year":
        return month
    if isinstance(node, exp.Add | exp.Sub | exp.Mul | exp.Div | exp.IntDiv):
        left, right = _reckoned(node.this, month), _reckoned(node.expression, month)
        if left is None or right is None or (right == 0 and isinstance(node, exp.Div | exp.IntDiv)):
            return None
        if isinstance(node, exp.Add):
            return left + right
        if isinstance(node, exp.Sub):
            return left - right
        return left * right if isinstance(node, exp.Mul) else left // right
    return None


def _part(node: exp.Expr) -> tuple[exp.Expr | None, str]:
    name, given = called(node), node.expressions
    if isinstance(node, exp.Extract):
        return node.expression, _PARTS.get(str(node.this.this).upper(), "")
    if name == "STRFTIME" and len(given) == 2:
        return given[1], _FORMATS.get(str(plain(given[0])), "")
    if name in ("DATE_FORMAT", "TO_CHAR") and len(given) == 2:
        return given[0], _FORMATS.get(str(plain(given[1])), "")
    if name == "DATE_TRUNC" and len(given) == 2:
        return given[1], str(plain(given[0]) or "").lower()
    if isinstance(node, exp.Substring) and node.args.get("length") is not None:
        length = plain(node.args["length"])
        return node.this, {4.0: "year", 7.0: "month", 10.0: "day"}.get(length if isinstance(length, float) else 0.0, "")
    if name in ("SUBSTR", "SUBSTRING", "LEFT") and given:
        length = plain(given[-1])
        return given[0], {4.0: "year", 7.0: "month", 10.0: "day"}.get(length if isinstance(length, float) else 0.0, "")
    if name == "DATE" and len(given) == 1:
        return given[0], "day"
    if name in _PARTS and given:
        return given[0], _PARTS[name]
    return None, ""
