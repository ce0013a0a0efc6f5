"""Puts rows into words, when a prompt asks for that: who leads and who follows, otherwise the sentence it is given."""

from __future__ import annotations

import re
from typing import Final

ASKED_TO_TELL: Final = '{"says":'
_PARTS: Final = re.compile(r"^## (\w+)\n", re.MULTILINE)
_UNIT: Final = re.compile(r" \(([^()]*)\)$")
_GERMAN: Final = re.compile(r"\b(?:und|der|die|das|mit|im|liegt|nach|von|sind)\b")


def tell(asked: str, slips: bool = False) -> str:
    """What is said of the rows; `slips`: the first two are taken for each other."""
    pieces = _PARTS.split(asked)
    parts = dict(zip(pieces[1::2], (text.strip() for text in pieces[2::2]), strict=False))
    sentence = parts.get("Sentence", "")
    head, *rows = [line.split("\t") for line in parts.get("Rows", "").split("\n")]
    figures = [_number(row[-1]) for row in rows if len(row) == len(head) == 2]
    if len(figures) < 3 or None in figures or figures != sorted(figures, key=lambda f: -(f or 0)):
        return sentence
    about = sentence.partition(":")[0]
    unit = _UNIT.search(head[1])
    behind = f" {unit[1]}" if unit else ""
    (one, of_one), (other, of_other) = rows[0], rows[1]
    if slips:
        one, other = other, one
    if _GERMAN.search(sentence):
        of_one, of_other = (text.translate(str.maketrans(",.", ".,")) for text in (of_one, of_other))
        return f"{about}: {one} führt mit {of_one}{behind}, gefolgt von {other} mit {of_other}{behind}."
    return f"{about}: {one} leads with {of_one}{behind}, followed by {other} with {of_other}{behind}."


def _number(text: str) -> float | None:
    try:
        return float(text.replace(",", ""))
    except ValueError:
        return None
