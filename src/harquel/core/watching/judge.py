"""Whether what came of a watched question is worth telling: always, on change, or as a figure crosses a line.

What must hold: what is told once is not told again until it was otherwise in between; a figure that trembles at a line
tells it once, as far as the way back is set.
"""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass, replace
from decimal import Decimal, InvalidOperation
from typing import Any, Literal

Happens = Literal["always", "change", "above", "below", "by", "missing", "appears"]


@dataclass(frozen=True)
class Rule:
    """`line` is what is crossed, or by how much a figure has to move (`percent` of what was told last); `back` how far
    it has to go back behind the line before it may cross it anew.
    """

    happens: Happens
    line: Decimal | None = None
    back: Decimal = Decimal(0)
    percent: bool = False


@dataclass(frozen=True)
class Seen:
    """What came: the one figure, where there is one; how many rows; what they are, as a digest."""

    figure: Decimal | None
    rows: int
    digest: str

    @classmethod
    def of(cls, rows: list[list[Any]], types: list[str], row_count: int) -> Seen:
        """Of a result. Its figure: that of its only row, where it has one numeric column or, of several, none else."""
        numeric = [n for n, kind in enumerate(types) if kind in ("integer", "number", "decimal")]
        figure = None
        if row_count == 1 and len(numeric) == 1 and rows[0][numeric[0]] is not None:
            try:
                figure = Decimal(str(rows[0][numeric[0]]))
            except InvalidOperation:
                figure = None
        told = hashlib.sha256(json.dumps(rows, sort_keys=True, default=str).encode()).hexdigest()
        return cls(figure if figure is None or figure.is_finite() else None, row_count, told)


@dataclass(frozen=True)
class State:
    """What is known from before: what was told last, and whether that which is waited for is the case already."""

    figure: Decimal | None = None
    digest: str = ""
    holds: bool = False


@dataclass(frozen=True)
class Judged:
    """Whether to tell it, why by the name of a message, and the state from now on."""

    tell: bool
    why: str
    state: State


def rule_of(happens: Happens, line: str | None, back: str | None) -> Rule:
    """From what was written: "10", "-5", "5 %". Raises ValueError."""
    wants_line = happens in ("above", "below", "by")
    if wants_line != (line is not None):
        raise ValueError("line")
    text = (line or "0").strip()
    percent = text.endswith("%")
    try:
        found, way_back = Decimal(text.removesuffix("%").strip()), Decimal((back or "0").strip())
    except InvalidOperation as error:
        raise ValueError("line") from error
    if not found.is_finite() or not way_back.is_finite() or way_back < 0 or abs(found) > 10**15:
        raise ValueError("line")
    if (
        (percent and happens != "by")
        or (happens == "by" and found <= 0)
        or (back and happens not in ("above", "below"))
    ):
        raise ValueError("line")
    return Rule(happens, found if wants_line else None, way_back, percent)


def judge(rule: Rule, before: State, seen: Seen) -> Judged:
    """What is to be told of it."""
    told = State(seen.figure, seen.digest, before.holds)
    match rule.happens:
        case "always":
            return Judged(True, "watch-always", told)
        case "change":
            moved = seen.digest != before.digest
            return Judged(moved, "watch-change", told if moved else before)
        case "above" | "below":
            return _crossing(rule, before, seen)
        case "by":
            return _moved(rule, before, seen)
        case "missing":
            return _latched("watch-missing", before, seen, seen.rows == 0 or (seen.rows == 1 and seen.figure is None))
        case "appears":
            return _latched("watch-appears", before, seen, seen.rows > 0)


def _latched(why: str, before: State, seen: Seen, holds: bool) -> Judged:
    tell = holds and not before.holds
    state = replace(before, holds=holds)
    return Judged(tell, why, State(seen.figure, seen.digest, holds) if tell else state)


def _crossing(rule: Rule, before: State, seen: Seen) -> Judged:
    """Above or below a line. Where there is no figure nothing is crossed, and nothing has gone back."""
    if seen.figure is None or rule.line is None:
        return Judged(False, "", before)
    above = rule.happens == "above"
    beyond = seen.figure > rule.line if above else seen.figure < rule.line
    back = seen.figure <= rule.line - rule.back if above else seen.figure >= rule.line + rule.back
    holds = beyond or (before.holds and not back)
    return _latched(f"watch-{rule.happens}", before, seen, holds and (beyond or before.holds))


def _moved(rule: Rule, before: State, seen: Seen) -> Judged:
    if seen.figure is None or rule.line is None:
        return Judged(False, "", before)
    if before.figure is None:
        # The first figure is what later ones are held against.
        return Judged(False, "", State(seen.figure, seen.digest, before.holds))
    least = abs(before.figure) * rule.line / 100 if rule.percent else rule.line
    moved = abs(seen.figure - before.figure)
    tell = moved >= least and moved > 0
    return Judged(tell, "watch-by", State(seen.figure, seen.digest, before.holds) if tell else before)
