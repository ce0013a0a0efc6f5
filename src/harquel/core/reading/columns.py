"""What the columns of a control are called."""

from __future__ import annotations

import re
from itertools import count
from typing import Final

from harquel.core.domain.units import Units
from harquel.core.reading.value import Inner, Reading, Worth

_LONGEST_NAME: Final = 40


def names_of(reading: Reading, extra: int, units: Units) -> list[str]:
    """What its columns are called: short, plain, and each only once."""
    wanted = [per.unit or per.column for per in reading.per]
    wanted += [
        named(f) or f.figure if f.figure == "measure" else f"{f.figure} {_converted(_last(named(f)), f.divided, units)}"
        for f in reading.figures
    ]
    wanted += [
        s if isinstance(s, str) else s.unit if s.since else _converted(named(s), s.divided, units) for s in reading.show
    ]
    wanted += ["beside"] * extra
    found: dict[str, None] = {}
    for name in wanted:
        plain = "_".join(re.findall(r"[a-z0-9]+", _last(name).lower()))[:_LONGEST_NAME]
        plain = plain if plain[:1].isalpha() else f"c{plain}"
        numbered = (f"{plain}_{n}" for n in count(len(found) + 1))
        found[plain if plain not in found else next(n for n in numbered if n not in found)] = None
    return list(found)


def _converted(name: str, divided: float, units: Units) -> str:
    """What a column is called whose figure was divided: cents that were, in euros."""
    unit = units.of_name(name)
    if divided == 1 or unit is None:
        return name
    words, into = re.split(r"[_ ]", name)[:-1], units.known(units.converted(unit, 1 / divided))
    return "_".join([*words, *(into.called[:1] if into is not None else ())]) or name


def _last(name: str) -> str:
    return name.rpartition(".")[2]


def named(worth: Worth) -> str:
    """The column that it is of, or what it is worked out from."""
    return f"{worth.of.figure} {worth.of.rows}" if isinstance(worth.of, Inner) else worth.of or ""
