"""Functions that make texts or rows out of nothing do so in bounds that stand in the statement.

Bad:  SELECT REPEAT('x', 1000000000)
Good: SELECT LPAD(code, 4, '0') FROM route
"""

from __future__ import annotations

import datetime as dt
import re

from sqlglot import exp

from harquel.core.guard.context import GuardContext, Objection, object_to
from harquel.core.guard.rules.rule import rule
from harquel.core.sql.tree import place

CODE = "grows-without-bound"
MOST = 10_000
"""How many times longer than its longest argument a text may become, and how many characters may be made."""
MOST_ROWS = 100_000
_DAY = 86_400
_UNITS = {
    "second": 1, "minute": 60, "hour": 3600, "day": _DAY, "week": 7 * _DAY, "month": 30 * _DAY, "quarter": 91 * _DAY,
    "year": 365 * _DAY,
}  # fmt: skip
_STEP = re.compile(rf"([1-9]\d*) ?({'|'.join(_UNITS)})s?")
_WIDTH = re.compile(r"%[-+0 #,!]*(\*|\d+)?(?:\.(\*|\d+))?")


@rule(CODE)
def growth(context: GuardContext) -> list[Objection]:
    """One objection for each function that could make more than the bounds, alone or inside another one."""
    found = []
    for cast in context.tree.find_all(exp.Cast):
        # A text of fixed width is filled up to it.
        width = next((_number(p.this) for p in cast.to.find_all(exp.DataTypeParam)), 0.0)
        if cast.to.this in (exp.DataType.Type.CHAR, exp.DataType.Type.NCHAR) and width > MOST:
            hint = f"Write a width of at most {MOST:,}."
            found.append(_refuse(cast, f"A text of {width:,.0f} characters would be made here.", hint))
    for node in context.tree.find_all(exp.Anonymous):
        name = str(node.this).upper()
        if name == "GENERATE_SERIES":
            if _rows(node) > MOST_ROWS:
                hint = "Write both ends down, or take a step of a day or more for times."
                found.append(_refuse(node, f"The series could have more than {MOST_ROWS:,} rows.", hint))
            continue
        factor, outer = _factor(node), node.parent
        while outer is not None and factor <= MOST:
            if isinstance(outer, exp.Anonymous):
                factor *= _factor(outer)
            outer = outer.parent
        if factor > MOST:
            hint = f"Write the length as a number, at most {MOST:,} over all such functions inside each other."
            found.append(_refuse(node, f"{name} could make a text of any length here.", hint))
    return found


def _refuse(node: exp.Expr, message: str, hint: str) -> Objection:
    return object_to(CODE, message, hint, "statement.growth", place(node))


def _factor(node: exp.Anonymous) -> float:
    """How many times longer the result can be than what goes in; 1 for functions that do not grow."""
    name, given = str(node.this).upper(), node.expressions
    if name == "REPEAT" or name in ("LPAD", "RPAD"):
        return _number(given[1]) if len(given) > 1 else 1
    if name == "SPACE":
        return _number(given[0]) if given else 1
    if name == "HEX":
        return 2
    if name in ("REPLACE", "REGEXP_REPLACE") and len(given) > 2:
        return _replaced(name, given)
    if name in ("PRINTF", "FORMAT") and given and isinstance(given[0], exp.Literal) and given[0].is_string:
        widths = [part for match in _WIDTH.findall(given[0].this) for part in match if part]
        return max((float("inf") if "*" in w else float(w) for w in widths), default=1.0)
    if name == "PRINTF":
        return float("inf")
    return 1.0


def _replaced(name: str, given: list[exp.Expr]) -> float:
    """By how much the text that is put in is longer than what it is put in for."""
    if not (isinstance(given[2], exp.Literal) and given[2].is_string):
        return MOST / 100
    sought = given[1].this if isinstance(given[1], exp.Literal) and name == "REPLACE" else "x"
    return max(1.0, len(given[2].this) / max(1, len(sought)))


def _number(node: exp.Expr) -> float:
    if isinstance(node, exp.Literal) and not node.is_string and node.this.isdigit():
        return float(node.this)
    return float("inf")


def _rows(node: exp.Anonymous) -> float:
    """The rows of a series: numbers between numbers, or times in steps of a known length."""
    given = [a.unnest() for a in node.expressions]
    step = _bare(given[2]) if len(given) > 2 else None
    if isinstance(step, exp.Interval) or (isinstance(step, exp.Literal) and step.is_string):
        seconds = _seconds(step)
        if not seconds:
            return float("inf")
        ends = [_moment(a) for a in given[:2]]
        span = (ends[1] - ends[0]).total_seconds() if ends[0] and ends[1] else None
        if span is None:
            # Ends that are looked up: all the time that there is, in steps of a day or more, can be borne.
            return 0 if seconds >= _DAY else float("inf")
        return abs(span) / seconds
    ends_ = [_number(a.this) * -1 if isinstance(a, exp.Neg) else _number(a) for a in given[:2]]
    if len(ends_) < 2 or any(abs(e) == float("inf") for e in ends_):
        return float("inf")
    by = abs(_number(step.this if isinstance(step, exp.Neg) else step)) if step is not None else 1.0
    return abs(ends_[1] - ends_[0]) / by if by else float("inf")


def _bare(node: exp.Expr) -> exp.Expr:
    while isinstance(node, exp.Cast | exp.Paren):
        node = node.this
    return node


def _seconds(step: exp.Expr) -> float:
    """How long a step of one unit is; 0 where it is not written plainly."""
    said = f"{step.this.this if isinstance(step, exp.Interval) else step.this} {step.args.get('unit') or ''}".lower()
    match = _STEP.fullmatch(" ".join(said.split()))
    return int(match.group(1)) * _UNITS[match.group(2)] if match is not None else 0.0


def _moment(node: exp.Expr) -> dt.datetime | None:
    """A day or a moment that is written down; None for one that is looked up or reckoned."""
    bare = _bare(node)
    if not isinstance(bare, exp.Literal) or not bare.is_string:
        return None
    try:
        return dt.datetime.fromisoformat(bare.this).replace(tzinfo=None)
    except ValueError:
        return None
