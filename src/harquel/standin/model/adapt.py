"""Adapts an example of the prompt whose question resembles the one asked: other dates, other names."""

from __future__ import annotations

import datetime as dt
import re

from .lexicon import Lexicon
from .periods import Period, find_periods
from .prompt import Prompt
from .words import EMPTY, Token, tokens

ALIKE = 0.8
"""Share of common content words from which an example counts as the same question."""


def adapt(prompt: Prompt, lexicon: Lexicon) -> tuple[str, str] | None:
    """(SQL, explanation) of the most alike example, moved to what was asked; None when none is alike."""
    asked = _Sketch(prompt.question, prompt, lexicon)
    best: tuple[float, str, str] = (0.0, "", "")
    for question, sql in prompt.examples:
        known = _Sketch(question, prompt, lexicon)
        both, either = asked.content & known.content, asked.content | known.content
        alike = len(both) / len(either) if either else 0.0
        moved = _move(sql, known, asked)
        if moved is not None and alike > best[0]:
            best = (alike, moved, question)
    if best[0] < ALIKE:
        return None
    return best[1], f"Follows the example “{best[2]}”."


class _Sketch:
    """A question without its dates and values, and those apart."""

    def __init__(self, question: str, prompt: Prompt, lexicon: Lexicon) -> None:
        words: list[Token] = tokens(question)
        found = find_periods(words, prompt.now)
        self.periods = [p for p, _, _ in found]
        taken = {i for _, start, end in found for i in range(start, end)}
        self.values: list[str] = []
        for span in lexicon.spans(words, taken):
            for meaning in span.of("value")[:1]:
                if not span.of("table", "measure"):
                    self.values.append(meaning.value)
                    taken |= set(range(span.start, span.end))
        self.content = {w.stem for i, w in enumerate(words) if i not in taken and w.low not in EMPTY}


def _move(sql: str, known: _Sketch, asked: _Sketch) -> str | None:
    """The example's SQL with dates and values exchanged, one for one; None when they do not pair up."""
    if len(known.periods) != len(asked.periods) or len(known.values) != len(asked.values):
        return None
    swaps: dict[str, str] = {}
    for old, new in zip(known.periods, asked.periods, strict=True):
        for before, after in ((old.start, new.start), (old.end, _end(new))):
            if (before is None) != (after is None):
                return None
            if before is not None and after is not None:
                swaps[f"'{before:%Y-%m-%d}'"] = f"'{after:%Y-%m-%d}'"
    for old_value, new_value in zip(known.values, asked.values, strict=True):
        swaps[_literal(old_value)] = _literal(new_value)
    if any(old not in sql for old in swaps):
        return None
    pattern = "|".join(map(re.escape, swaps))
    return re.sub(pattern, lambda m: swaps[m.group()], sql) if swaps else sql


def _end(period: Period) -> dt.datetime | None:
    """The first day that no longer belongs to a period."""
    if period.end is None or not period.to_now:
        return period.end
    return dt.datetime(period.end.year, period.end.month, period.end.day) + dt.timedelta(days=1)


def _literal(value: str) -> str:
    return "'" + value.replace("'", "''") + "'"
