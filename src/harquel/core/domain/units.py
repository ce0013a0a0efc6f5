"""Units: what they are worth in each other, and what columns in them are called.

Those of time, length, speed, mass and volume are everybody's. Any other, such as money, is what the notes of a place
say of it (UnitNotes); there a unit is worth so much of another one, or is one by itself.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from pydantic import BaseModel, ConfigDict, Field

_SLACK: Final = 1e-6
_PER: Final = re.compile(r"\s+per\s+|/")


class UnitNotes(BaseModel):
    """What the notes say of one unit: so much of another one, the words with which names of columns end in it, and the
    sign that stands for it where a figure is told: € for EUR.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    of: str | None = None
    worth: float = Field(default=1.0, ge=1e-12, le=1e12)
    called: tuple[str, ...] = ()
    symbol: str = Field(default="", max_length=4, pattern=r"^[^\w\s]*$")


@dataclass(frozen=True)
class Unit:
    """`worth` is that of one in the unit `of`, which has the worth 1. `exact`: nothing else has its kind, so that a
    figure multiplied by anything but a conversion is in no unit at all. `rate`: it does not add up.
    """

    name: str
    of: str
    worth: float = 1.0
    called: tuple[str, ...] = ()
    exact: bool = False
    rate: bool = False


_STANDARD: Final = (
    Unit("seconds", "seconds", 1, ("seconds", "secs"), exact=True),
    Unit("minutes", "seconds", 60, ("minutes", "min", "mins"), exact=True),
    Unit("hours", "seconds", 3600, ("hours",), exact=True),
    Unit("days", "seconds", 86400, ("days",), exact=True),
    Unit("weeks", "seconds", 7 * 86400, ("weeks",), exact=True),
    # How long they are is a matter of opinion: no column is called in them, and all these factors are meant.
    *(Unit("months", "seconds", days * 86400) for days in (30, 30.44, 30.4375)),
    *(Unit("years", "seconds", days * 86400) for days in (365, 365.25, 365.2425)),
    Unit("m", "m", 1, ("m", "metres", "meters")), Unit("km", "m", 1000, ("km",)), Unit("cm", "m", 0.01, ("cm",)),
    Unit("nautical miles", "m", 1852, ("nm",)), Unit("miles", "m", 1609.344, ("miles",)),
    Unit("km/h", "km/h", 1, ("kmh",), rate=True), Unit("knots", "km/h", 1.852, ("kn", "knots"), rate=True),
    Unit("kg", "kg", 1, ("kg",)), Unit("t", "kg", 1000), Unit("g", "kg", 0.001),
    Unit("litres", "litres", 1, ("litres", "liters")), Unit("m³", "litres", 1000),
    Unit("%", "%", 1, ("percent", "pct"), rate=True),
)  # fmt: skip


def _decimal(value: float) -> str:
    """As it is written in SQL where whole numbers must not be cut off."""
    text = f"{value:.10g}"
    return text if "." in text or "e" in text else f"{text}.0"


class Units:
    """All units that a source knows."""

    def __init__(self, told: Mapping[str, UnitNotes]) -> None:
        self._symbols = {name: about.symbol for name, about in told.items() if about.symbol}
        own = [Unit(name, about.of or name, about.worth, about.called, exact=True) for name, about in told.items()]
        bases = {unit.of for unit in own} - {unit.name for unit in own} - {unit.name for unit in _STANDARD}
        own += [Unit(name, name, exact=True) for name in sorted(bases)]
        self._all = [*own, *(u for u in _STANDARD if u.name not in told)]
        self._known = {unit.name: unit for unit in reversed(self._all)}
        self._called = {word.casefold(): unit.name for unit in reversed(self._all) for word in unit.called}

    def known(self, name: str | None) -> Unit | None:
        """What is known of a unit, by its name or as columns in it are called; nothing of most."""
        return self._known.get(name or "") or self._known.get(self._called.get((name or "").casefold(), ""))

    def sign(self, name: str | None) -> str | None:
        """What is written for a unit where a figure is told: its symbol where it has one."""
        return self._symbols.get(name, name) if name is not None else None

    def of_name(self, column: str) -> str | None:
        """The unit in which a column says that it is, by the last word of its name, before a "per"."""
        words = column.casefold().replace(" ", "_").split("_per_")[0].split("_")
        return self._called.get(words[-1])

    def converted(self, name: str, factor: float) -> str | None:
        """The unit in which a figure is that was in another one and was multiplied by a number; None for no unit."""
        unit = self.known(name)
        if unit is None or not math.isfinite(factor):
            return None
        found = (u for u in self._all if u.of == unit.of and abs(unit.worth / u.worth - factor) <= _SLACK * factor)
        return next((u.name for u in found), None)

    def way(self, have: str, want: str) -> str:
        """How a figure comes from one unit to another, as a sentence."""
        one, other = self.known(have), self.known(want)
        if one is None or other is None or one.of != other.of:
            return f"Give it in {want}."
        factor = one.worth / other.worth
        return f"Divide by {_decimal(1 / factor)}." if factor < 1 else f"Multiply by {_decimal(factor)}."

    def said(self, name: str) -> str:
        """What one of another unit of its kind comes to, as a sentence; empty where it is the only one."""
        unit = self.known(name)
        others = [u for u in self._all if unit is not None and u.of == unit.of and u.worth != unit.worth]
        if unit is None or not others:
            return ""
        larger, smaller = sorted((unit, others[0]), key=lambda u: -u.worth)
        return f"1 {larger.name} is {larger.worth / smaller.worth:g} {smaller.name}."

    def numerator(self, name: str) -> str | None:
        """What a rate comes to for the amount of one: EUR for "EUR per litre"; None for what is no such rate."""
        parts = self._parts(name)
        return parts[0] if parts is not None else None

    def amount(self, rate: str, of: str) -> tuple[str, float] | None:
        """What a rate times an amount in a unit is in, and how often too much of it that is: EUR per hour, times
        minutes, is 60 times as many EUR. None where the two do not go together.
        """
        parts = self._parts(rate)
        if parts is None:
            return None
        per, taken = self.known(parts[1]) or self.known(f"{parts[1]}s"), self.known(of)
        if per is None or taken is None:
            return parts[0], 1.0
        return (parts[0], per.worth / taken.worth) if per.of == taken.of else None

    def _parts(self, name: str) -> list[str] | None:
        parts = [part.strip() for part in _PER.split(name, maxsplit=1)]
        return parts if len(parts) > 1 and self.known(name) is None else None


def faults_of(told: Mapping[str, UnitNotes]) -> list[str]:
    """What does not hold together in the units of notes, as sentences."""
    found = []
    units = Units(told)
    for name, about in told.items():
        of = units.known(about.of) if about.of is not None else None
        if about.of == name or (of is not None and of.of != of.name):
            base = of.of if of is not None and about.of != name else ""
            say = f"say it in {base}" if base else "leave `of` out where it is a unit by itself"
            found.append(f"{name} is so much of {about.of}, which is so much of something itself; {say}.")
        if about.of is None and about.worth != 1.0:
            found.append(f"{name} is worth {about.worth:g}, but `of` does not say of what.")
    return found
