"""How values of a result are written for people: the one set of rules for sentence, terminal and console.

The rules stand in docs/design.md, "How values are written"; console/src/shared/figures.ts follows the same ones, and
one table of cases (tests/data/figures.yaml) holds both.
"""

from __future__ import annotations

import unicodedata
from decimal import ROUND_HALF_UP, Decimal, InvalidOperation, localcontext
from typing import Any, Final, Protocol

FIGURES: Final = ("integer", "number", "decimal")
HUGE: Final = Decimal(10) ** 21
"""From here on a figure is written as it comes."""
_SMALLEST_PLAIN: Final = Decimal("0.000001")


def in_a_line(value: object, most: int) -> str:
    """At most so many characters of it, in one line, without signs that steer: those of terminals and of direction."""
    text = "".join(
        " " if unicodedata.category(c) in ("Cc", "Cf", "Zl", "Zp", "Cs") else c for c in str(value)[: 2 * most]
    )
    text = " ".join(text.split())
    return text if len(text) <= most else text[: most - 1] + "…"


class Shown(Protocol):
    """What of a column says how its values are written; see ResultColumn."""

    @property
    def type(self) -> str:
        """What its values are."""

    @property
    def role(self) -> str | None:
        """What numbers are that are no figures."""

    @property
    def decimals(self) -> int | None:
        """How many decimals show each of them."""


def is_figure(column: Shown) -> bool:
    """Whether its values stand to the right."""
    return column.type in FIGURES


def written(value: Any, column: Shown) -> str:
    """A value of a column, without its unit; nothing is a dash."""
    if value is None:
        return "–"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if column.role is not None or not is_figure(column):
        return str(value)
    try:
        number = Decimal(str(value))
    except InvalidOperation:
        return str(value)
    if not number.is_finite() or abs(number) >= HUGE:
        return str(value)
    if column.type == "integer":
        return f"{number:,f}"
    places = 2 if column.decimals is None else column.decimals
    with localcontext() as context:
        context.prec = 60
        rounded = number.quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)
        if rounded or not number:
            return f"{rounded or abs(rounded):,f}"
        # It would be a false zero.
        context.prec, context.rounding = 3, ROUND_HALF_UP
        short = (+number).normalize()
    return f"{short:f}" if abs(number) >= _SMALLEST_PLAIN else f"{short:e}".replace("e-0", "e-")
