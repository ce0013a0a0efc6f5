"""A remark where the figures hold one: a gap, a step, a part that is most of it, a value far from the rest.

Plain statistics with a stated rule each, in docs/answers.md; at most one, and none where the rows are few.
"""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from itertools import pairwise
from statistics import median, quantiles
from typing import Final

from harquel.core.answers.sentence.figures import apart, localised, shown
from harquel.core.answers.sentence.shapes import TRENDS, Group, Told, groups_of
from harquel.core.domain.inquiry import ResultColumn
from harquel.core.language.when import follows, named_unit, step_on

_LEAST: Final = 6
"""Finished times of a trend of which a step is remarked, and groups of which one is most."""
_MANY: Final = 8
"""Groups of which one can be far from the rest."""
_STEEP: Final = 3
"""Times the middle step of the others that the largest has to be."""
_WORTH: Final = Decimal("0.25")
"""Of the figure before it that a step has to be."""
_MOST: Final = Decimal("0.5")
_FAR: Final = 3
"""Times the spread of the middle half that a value has to be above it."""
_NAMED: Final = 3
_LOOKED: Final = 2000
"""Times between the first and the last that are gone through."""
_ADDED: Final = frozenset({"count", "sum"})


def remark(told: Told) -> str:
    """What is worth a remark; empty where nothing is."""
    reading = told.reading
    other = reading.tally or reading.across is not None or reading.each is not None or reading.both or reading.open
    found = groups_of(told) if not other and not reading.keep and told.table.cut_by is None else None
    if found is None or not found[1]:
        return ""
    column, groups = found
    unit = reading.per[0].unit if len(reading.per) == 1 else None
    ranked = reading.top is not None
    if unit in TRENDS and not ranked and all(g.begins is not None for g in groups):
        going = sorted(groups, key=lambda g: g.begins or told.now)
        return _gap(told, going, str(unit)) or _step(told, going, str(unit), column)
    return "" if ranked or len(reading.per) != 1 else _most(told, groups, column) or _far(told, groups, column)


def _gap(told: Told, going: list[Group], unit: str) -> str:
    """Times between the first and the last that have no row."""
    known = {g.begins for g in going}
    at, last, missing = going[0].begins, going[-1].begins, list[dt.datetime]()
    for _ in range(_LOOKED):
        if at is None or last is None or at >= last:
            break
        if at not in known:
            missing.append(at)
        at = step_on(at, unit)
    if not missing or at != last or len(going) < _NAMED:
        return ""
    names = ", ".join(named_unit(m, unit, told.language) for m in missing[:_NAMED])
    more = ", …" if len(missing) > _NAMED else ""
    return told.say("remark-gap", count=len(missing), n=f"{len(missing):,}", names=names + more)


def _step(told: Told, going: list[Group], unit: str, column: ResultColumn) -> str:
    """The largest change from one time to the next, where the others are small beside it."""
    done = [g for g in going if not told.goes_on(g.begins, unit) and not told.cut_off(g.begins, unit)]
    steps = [
        (abs(two.worth - one.worth), one, two) for one, two in pairwise(done)
        if follows(one.begins, two.begins, unit)
    ]  # fmt: skip
    if len(done) < _LEAST or len(steps) < _LEAST - 1:
        return ""
    steps.sort(key=lambda s: s[0], reverse=True)
    size, one, two = steps[0]
    others = median(s[0] for s in steps[1:])
    if size < _STEEP * others or size < _WORTH * abs(one.worth) or not size:
        return ""
    way = "remark-step-up" if two.worth > one.worth else "remark-step-down"
    gap = apart(two.value, one.value, column, told.language)
    return told.say(way, difference=gap, before=one.name, last=two.name)


def _most(told: Told, groups: list[Group], column: ResultColumn) -> str:
    """A part that is at least half of what can be added up."""
    figure = told.reading.figures[0]
    total = sum((g.worth for g in groups), Decimal(0))
    added = figure.figure in _ADDED and len(told.reading.figures) == 1 and column.unit != "%"
    if not added or len(groups) < _NAMED or total <= 0 or any(g.worth < 0 for g in groups):
        return ""
    first = max(groups, key=lambda g: g.worth)
    share = first.worth / total
    if share < _MOST or share == 1:
        return ""
    percent = ResultColumn(name="", type="number", decimals=0)
    return told.say("remark-most", name=first.name, share=localised(f"{share * 100:.0f}", percent, told.language))


def _far(told: Told, groups: list[Group], column: ResultColumn) -> str:
    """A value far above the middle half of all."""
    if len(groups) < _MANY:
        return ""
    low, _, high = quantiles([g.worth for g in groups], n=4)
    first = max(groups, key=lambda g: g.worth)
    if high <= low or first.worth <= high + _FAR * (high - low):
        return ""
    ends = (shown(str(end), column, told.language) for end in (low, high))
    return told.say("remark-far", name=first.name, **dict(zip(("low", "high"), ends, strict=True)))
