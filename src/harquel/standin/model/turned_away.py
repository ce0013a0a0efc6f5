"""Questions that want something else than figures: a change of the data, or what somebody is paid."""

from __future__ import annotations

from .intent import AsksForChange, NotInData
from .lexicon import Lexicon
from .prompt import Prompt
from .words import CHANGES, PAY, PEOPLE, Token, stems


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
