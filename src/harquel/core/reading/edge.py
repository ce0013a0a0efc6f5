"""The same reading with its times ending just before or just after the instant of the question, and days counted from
that instant or from its midnight: no question says which of the two it means, and none could.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from itertools import product
from typing import Final, TypeVar

from harquel.core.reading.literals import moment
from harquel.core.reading.paths import NoControl
from harquel.core.reading.value import Figure, Reading, Time, Worth

_MOST_EDGES: Final = 2
_OTHER: Final = {"now": "today", "today": "now"}
W = TypeVar("W", bound=Worth)


def at_the_edge(reading: Reading, now: dt.datetime) -> Iterator[Reading]:
    """The same with one or more of its edges on the other side; nothing where it has none, or more than two."""
    edges = [f"during {n}" for n, time in enumerate(reading.during) if _moved(time, now) is not time]
    edges += [
        f"figure {n} {m}" for n, f in enumerate(reading.figures) for m, t in enumerate(f.during)
        if _moved(t, now) is not t
    ]  # fmt: skip
    worths = enumerate((*reading.figures, *reading.show))
    edges += [f"days {n}" for n, one in worths if isinstance(one, Worth) and _begun(one) is not one]
    if not edges or len(edges) > _MOST_EDGES:
        return
    for moved in product((True, False), repeat=len(edges)):
        chosen = {edge for edge, on in zip(edges, moved, strict=True) if on}
        if chosen:
            yield _with(reading, chosen, now)


def _with(reading: Reading, chosen: set[str], now: dt.datetime) -> Reading:
    during = tuple(_moved(t, now) if f"during {n}" in chosen else t for n, t in enumerate(reading.during))
    figures: list[Figure] = []
    for n, figure in enumerate(reading.figures):
        own = tuple(_moved(t, now) if f"figure {n} {m}" in chosen else t for m, t in enumerate(figure.during))
        narrowed = figure.model_copy(update={"during": own})
        figures.append(_begun(narrowed) if f"days {n}" in chosen else narrowed)
    first = len(reading.figures)
    show = tuple(
        _begun(one) if isinstance(one, Worth) and f"days {first + n}" in chosen else one
        for n, one in enumerate(reading.show)
    )
    return reading.model_copy(update={"during": during, "figures": tuple(figures), "show": show})


def _moved(time: Time, now: dt.datetime) -> Time:
    """With its end a second further where it is the question's instant or the same time of another day, or back."""
    second, at = dt.timedelta(seconds=1), now.time().replace(microsecond=0)
    try:
        until = dt.datetime.fromisoformat(moment(time.until or ""))
        moved = until + second if until.time() == at != dt.time() else until - second
    except (NoControl, OverflowError):
        return time
    if at not in (until.time(), moved.time()) or until.time() == dt.time():
        return time
    return time.model_copy(update={"until": moved.isoformat(" ")})


def _begun(one: W) -> W:
    """In days from the instant instead of from its midnight, or the other way round."""
    if one.since is None or one.unit != "days" or not isinstance(one.of, str):
        return one
    ends = {"of": _OTHER.get(one.of.casefold(), one.of), "since": _OTHER.get(one.since.casefold(), one.since)}
    return one if ends == {"of": one.of, "since": one.since} else one.model_copy(update=ends)
