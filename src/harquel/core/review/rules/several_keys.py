"""Where a table points at another by two keys, the one is used that the question means, or both.

Bad:  "that start or end at Saltreach": SELECT r.code FROM route r JOIN harbour h ON h.id = r.from_harbour_id
Good: SELECT r.code FROM route r JOIN harbour h ON h.id IN (r.from_harbour_id, r.to_harbour_id)
"""

from __future__ import annotations

from harquel.core.briefing.words import name_stems, stem
from harquel.core.domain.catalog import Table
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule

CODE = "one-key-of-several"
_DIRECTIONS = tuple(
    (frozenset(map(stem, key.split())), frozenset(map(stem, said.split())))
    for key, said in (
        ("from origin source start departure sender", "departure departures departing origin leaving sender"),
        ("to destination target end arrival receiver", "arrival arrivals arriving destination receiver"),
    )
)
"""Stems in the name of a key that has a direction, and words that say it."""


@rule(CODE)
def several_keys(context: ReviewContext) -> list[Finding]:
    """One finding for each table that is reached by one of several keys, without a word for it in the question."""
    found = []
    for name in context.statement.names.reads:
        table = context.catalog.table(name)
        if table is None:
            continue
        for target in sorted({k.table for k in table.foreign_keys}):
            keys = [k.columns[0] for k in table.foreign_keys if k.table == target and len(k.columns) == 1]
            used = [k for k in keys if (name, k) in context.statement.read]
            if len(keys) < 2 or len(used) != 1 or target not in context.statement.names.reads or target == name:
                continue
            other = next(k for k in keys if k not in used)
            if _points(context, _own(table, other, keys)) and not _points(context, _own(table, used[0], keys)):
                message = f"The question means {name}.{other}; the query goes by {used[0]}."
                found.append(context.finding(CODE, "error", message, f"Join along {other}."))
                continue
            if not _names(context, target) or set(_own(table, used[0], keys)) & context.question.stems:
                continue
            message = f"{name} has two ways to {target}, {used[0]} and {other}; only {used[0]} is used."
            found.append(context.finding(CODE, "warning", message, "Use both, unless the question means one of them."))
    return found


def _names(context: ReviewContext, target: str) -> bool:
    """Whether a row of the target is named: only then does the way to it choose between rows."""
    return any(c.ref is not None and c.ref.table.name == target and c.values for c in context.statement.conditions)


def _points(context: ReviewContext, own: list[str]) -> bool:
    """Whether a word of the question says the direction that the name of a key does."""
    return any(set(own) & ends and said & context.question.stems for ends, said in _DIRECTIONS)


def _own(table: Table, column: str, keys: list[str]) -> list[str]:
    shared = set.intersection(*(set(name_stems(k)) for k in keys))
    return [w for w in name_stems(column) if w not in shared]
