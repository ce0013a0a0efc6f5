"""How long something takes, and how late it is: from one time of a row to another of the same."""

from __future__ import annotations

from collections.abc import Sequence

from .prompt import Column, Table
from .words import Token, stems

DELAY = frozenset("delay delayed late lateness".split())
_LASTING = frozenset("take takes took last lasts stay stays open duration".split())
_PLANNED = frozenset("scheduled planned expected due".split())
_REAL = frozenset("actual real".split())
_BEGIN = frozenset("departure start started opened ordered begin hired".split())
_END = frozenset("arrival end ended closed delivered finished left".split())

Pair = tuple[Column, Column]
"""The later time and the earlier one."""


def delay_of(table: Table) -> Pair | None:
    """When something was to be, and when it was."""
    times = _times(table)
    for real in times:
        for planned in times:
            was, was_to_be = {*stems(real.name)}, {*stems(planned.name)}
            if was & _REAL and was_to_be & _PLANNED and was - _REAL == was_to_be - _PLANNED:
                return real, planned
    return None


def lasting_of(table: Table) -> Pair | None:
    """When something begins and ends: what was, rather than what was planned."""
    times = sorted(_times(table), key=lambda c: not _REAL & {*stems(c.name)})
    for end in times:
        for begin in times:
            ends, begins = {*stems(end.name)}, {*stems(begin.name)}
            if ends & _END and begins & _BEGIN and ends - _END == begins - _BEGIN:
                return end, begin
    return None


def _times(table: Table) -> list[Column]:
    return [c for c in table.columns.values() if c.temporal]


def asked_for(words: Sequence[Token]) -> tuple[bool, list[int]] | None:
    """Whether a delay or a duration is asked for, and by which words; None for neither."""
    low = [word.low for word in words]
    late = [i for i, word in enumerate(low) if word in DELAY]
    if late:
        return True, [*(i for i in range(late[0]) if low[i] == "how" and i + 1 == late[0]), *late]
    for at in range(len(low) - 1):
        if low[at : at + 2] == ["how", "long"]:
            verb = [i for i in range(at + 2, len(low)) if low[i] in _LASTING]
            if verb:
                still = [verb[0] + 1] if low[verb[0] + 1 : verb[0] + 2] == ["open"] else []
                return False, [at, at + 1, *verb, *still]
    named = [i for i, word in enumerate(low) if word == "duration"]
    return (False, named) if named else None
