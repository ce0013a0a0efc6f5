"""Which of several meanings is nearest to what a question is about."""

from __future__ import annotations

from collections.abc import Sequence

from .intent import Intent
from .joins import JoinTree
from .lexicon import Meaning, Span
from .prompt import Prompt


def nearest(
    meanings: list[Meaning], spans: Sequence[Span], intent: Intent, prompt: Prompt, said: frozenset[str]
) -> list[Meaning]:  # fmt: skip
    """The same, ordered by how near their table is. `said` are the stems of the question's words."""
    if len(meanings) < 2:
        return meanings
    named = [m.table for s in spans for m in s.of("table") if m.weight == 3]
    named += [m.measure.of for s in spans for m in s.of("measure") if m.measure]
    dated = [m.measure.when for s in spans for m in s.of("measure") if m.measure and m.measure.when]
    base = intent.base if intent.figures or intent.rows_of else (named or [meanings[0].table])[0]
    tree = JoinTree(prompt, base, said)
    return sorted(
        meanings,
        key=lambda m: (
            f"{m.table}.{m.column}" not in dated, tree.distance(m.table), m.table not in named, -m.weight,
        ),
    )  # fmt: skip
