"""How the model behaves, chosen by the name in the request, its chance by a digest of the messages.

careful               no slips
careless-RATE[-SLIP]  RATE is the chance that a first draft carries one slip
stubborn[-SLIP]       every draft carries the same slip, whatever it is told
flaky                 the server stumbles: 429, 500, a reply cut off, a slow one

A careless one reads carelessly, too: RATE is the chance that a part of a reading is missing, of another column, or of
another time. A stubborn one reads as it is told to.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

SLIPS = (
    "shortened-table", "invented-column", "misspelt-value", "missing-join", "unasked-limit", "prose",
    "two-statements", "write",
)  # fmt: skip


@dataclass(frozen=True)
class Temper:
    """`rate` is between 0 and 1; `slip` fixes the kind, otherwise it is drawn."""

    kind: str
    rate: float = 0.0
    slip: str = ""


def temper_of(model: str) -> Temper | None:
    """The temper that a model name asks for; None for a name that nobody here answers to."""
    if model in ("careful", "flaky"):
        return Temper(model)
    found = re.fullmatch(r"(careless)-(\d(?:\.\d+)?)(?:-([a-z-]+))?|(stubborn)(?:-([a-z-]+))?", model)
    if found is None:
        return None
    careless, rate, slip, stubborn, fixed = found.groups()
    kind, chosen = careless or stubborn, slip or fixed or ""
    if chosen and chosen not in SLIPS:
        return None
    return Temper(kind, min(1.0, float(rate)) if rate else 1.0, chosen)


def chance(model: str, messages: list[dict[str, str]], salt: str) -> float:
    """A number from 0 up to 1 that depends on nothing but what is given."""
    text = json.dumps([model, salt, messages], sort_keys=True)
    return int.from_bytes(hashlib.sha256(text.encode()).digest()[:6], "big") / 2**48


def slip_into(sql: str, explanation: str, wanted: str, draw: float) -> str:
    """A reply with a slip: the wanted one, or the first applicable from a drawn place on."""
    start = SLIPS.index(wanted) if wanted else int(draw * len(SLIPS))
    for kind in SLIPS[start:] + SLIPS[:start]:
        spoilt = _SPOIL[kind](sql)
        if spoilt is not None:
            if kind == "prose":
                return spoilt
            return json.dumps({"sql": spoilt, "explanation": explanation})
    raise AssertionError("prose is always possible")


def misread(reading: dict[str, Any], draw: float) -> dict[str, Any]:
    """A reading with one slip, of those that its parts allow; as it is where it has none."""
    spoilt: list[dict[str, Any]] = []
    if reading.get("only"):
        spoilt.append({**reading, "only": reading["only"][1:]})
    if reading.get("per"):
        spoilt.append({**reading, "per": reading["per"][1:]})
    for at, time in enumerate(reading.get("during", ())):
        spoilt.append({**reading, "during": reading["during"][:at] + reading["during"][at + 1 :]})
        if "from" in time:
            later = f"{int(time['from'][:4]) - 1:04d}{time['from'][4:]}"
            spoilt.append({**reading, "during": [{**t, "from": later} if t is time else t for t in reading["during"]]})
    for at, figure in enumerate(reading.get("figures", ())):
        other = {"sum": "average", "average": "sum", "maximum": "minimum", "minimum": "maximum"}.get(figure["figure"])
        if other is not None:
            changed = [{**f, "figure": other} if n == at else f for n, f in enumerate(reading["figures"])]
            spoilt.append({**reading, "figures": changed})
    return spoilt[int(draw * len(spoilt))] if spoilt else reading


def _first_table(sql: str) -> str:
    found = re.search(r"\b(?:FROM|JOIN) (\w+)", sql)
    return found.group(1) if found else "data"


def _shortened_table(sql: str) -> str | None:
    name = _first_table(sql)
    short = name.rsplit("_", 1)[0] if "_" in name else name[: max(3, len(name) - 3)]
    return re.sub(rf"\b{name}\b", short, sql) if short != name else None


def _invented_column(sql: str) -> str | None:
    found = re.search(r"\b(\w+)\.(\w+)", sql)
    if found is None:
        return sql.replace("SELECT ", f"SELECT {_first_table(sql)}.full_title, ", 1)
    table, column = found.groups()
    return sql.replace(found.group(), f"{table}.{table}_{column}_value")


def _misspelt_value(sql: str) -> str | None:
    values = [v for v in re.findall(r"'([^']*)'", sql) if re.fullmatch(r"[A-Za-z][A-Za-z ]{2,}", v)]
    return sql.replace(f"'{values[0]}'", f"'{values[0].swapcase()}'") if values else None


def _missing_join(sql: str) -> str | None:
    changed = re.sub(r"\bJOIN (\w+)((?: AS \w+)?) ON \S+ = \S+", r"CROSS JOIN \1\2", sql, count=1)
    return changed if changed != sql else None


def _unasked_limit(sql: str) -> str | None:
    return None if re.search(r"\bLIMIT \d+\s*$", sql) else f"{sql} LIMIT 5"


def _prose(sql: str) -> str:
    return f"Sure, here is what you need: {sql} That should give you the figures you asked for."


def _two_statements(sql: str) -> str:
    return f"{sql}; SELECT COUNT(*) FROM {_first_table(sql)}"


def _write(sql: str) -> str:
    return f"WITH gone AS (DELETE FROM {_first_table(sql)} RETURNING *) SELECT COUNT(*) FROM gone"


_SPOIL: dict[str, Callable[[str], str | None]] = {
    "shortened-table": _shortened_table,
    "invented-column": _invented_column,
    "misspelt-value": _misspelt_value,
    "missing-join": _missing_join,
    "unasked-limit": _unasked_limit,
    "prose": _prose,
    "two-statements": _two_statements,
    "write": _write,
}
