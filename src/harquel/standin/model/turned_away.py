"""Questions that want something else than the figures of a schema: a change, what somebody is paid, unknown things."""

from __future__ import annotations

from .adjectives import RANKS, ending_in_iest
from .english import AVERAGE, EXTREME, LEAST, MOST
from .intent import AsksForChange, NotInData
from .lexicon import Lexicon
from .prompt import Prompt
from .words import CHANGES, EMPTY, PAY, PEOPLE, Token, number, stems


def turn_away(words: list[Token], prompt: Prompt, lexicon: Lexicon) -> None:
    """Raises AsksForChange or NotInData for such a question."""
    low = [w.low for w in words]
    first = next((w for w in low if w not in ("please", "can", "could", "you", "now")), "")
    if first in CHANGES:
        tables = [m.table for s in lexicon.spans(words, set()) for m in s.of("table")]
        raise AsksForChange(tables[0] if tables else "")
    said = {w.stem for w in words} | set(low)
    if said & PAY and said & PEOPLE:
        paid = [c for t in prompt.tables.values() for c in t.columns.values()]
        if not any({"salary", "wage", "pay"} & set(stems(c.name)) for c in paid):
            raise NotInData("No column of the schema says what people are paid.")


def unknown(words: list[Token], matched: set[int]) -> list[str]:
    """The words with content whose places are not among those that something of the schema or the notes matched."""
    ranking = MOST | LEAST | AVERAGE | EXTREME.keys() | RANKS.keys() | {"%"}
    return [
        w.text
        for i, w in enumerate(words)
        if i not in matched and w.low not in EMPTY and w.stem not in EMPTY and number(w) is None
        and w.low not in ranking and not w.low.isdigit() and not ending_in_iest(w.low)
    ]  # fmt: skip
