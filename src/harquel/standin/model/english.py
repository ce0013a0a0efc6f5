"""English words that the simulated model knows by itself, beside those of the prompt."""

from __future__ import annotations

import re

WEEKDAYS = "sunday monday tuesday wednesday thursday friday saturday".split()
UNITS = frozenset("hour day weekday week month quarter year".split())
AVERAGE = frozenset("average mean avg typical".split())
EXTREME = dict.fromkeys("maximum max highest strongest longest largest".split(), "MAX")
EXTREME |= dict.fromkeys("minimum min lowest shortest smallest".split(), "MIN")
MOST = frozenset("most highest biggest largest top best busiest longest strongest".split())
LEAST = frozenset("least fewest lowest smallest worst quietest shortest".split())
SHARE = frozenset("share percentage percent proportion split %".split())
ADDITIVE = re.compile(r"cent|eur|litre|liter|quantity|count|passenger|amount|total|cost", re.I)
COMPARE = {
    ("more", "than"): ">", ("greater", "than"): ">", ("less", "than"): "<", ("fewer", "than"): "<",
    ("at", "least"): ">=", ("at", "most"): "<=", ("above",): ">", ("over",): ">", ("below",): "<", ("under",): "<",
    ("exceeding",): ">",
}  # fmt: skip
DAYS = {"day": 1, "week": 7, "month": 30, "year": 365}
KNOWN = frozenset("never delay delayed late lateness take duration people because reason".split()).union(
    WEEKDAYS, UNITS, AVERAGE, EXTREME, MOST, LEAST, SHARE
)
"""What the model knows by itself: no slips."""
IDLE = frozenset(
    "happened happen occurred occur recorded made make took take taken carry carried went ran run so far use used "
    "using come came through against versus vs compare compared comparison with leave leaves left depart "
    "starting decides".split()
)
"""What may be said of rows without asking for anything by it."""
