"""A text taken apart: sentences, their clauses, and in those names, times, figures and words."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from typing import Final, Literal

from harquel.core.answers.worded.facts import Facts, times_in
from harquel.core.language.telling import Telling

Kind = Literal["name", "time", "figure", "word", "stop"]
_BREAK: Final = re.compile(r"(?<=[.!?])\s+(?=[A-ZÄÖÜ0-9\"“„(])")
_FIGURE: Final = {
    "en": re.compile(r"[-−]?(?:\d{1,3}(?:,\d{3})+|\d+)(?:\.\d+)?"),
    "de": re.compile(r"[-−]?(?:\d{1,3}(?:\.\d{3})+|\d+)(?:,\d+)?"),
}
_WORD: Final = re.compile(r"[^\W\d_]+(?:[-'’][^\W_]+)*|%")
_STOP: Final = re.compile(r"[,;:()–—]")
_ORDINAL: Final = re.compile(r"^\d{1,2}\.$")


@dataclass(frozen=True)
class Token:
    """A part of a sentence. `items` are the things that a name or a time stands for; a figure has `decimals`."""

    kind: Kind
    text: str
    items: tuple[int, ...] = ()
    value: Decimal = Decimal()
    decimals: int = 0

    @property
    def folded(self) -> str:
        """In the form in which words are compared."""
        return self.text.casefold()


def sentences(text: str) -> list[str]:
    """A text in sentences; a day before its month ends none."""
    found: list[str] = []
    for piece in _BREAK.split(text.strip()):
        if found and _ORDINAL.match(found[-1].split()[-1] if found[-1].split() else "") and any(times_in(piece[:12])):
            found[-1] = f"{found[-1]} {piece}"
        else:
            found.append(piece)
    return found


def tokens(sentence: str, facts: Facts, language: str) -> list[Token]:
    """In order. Names of the result first, the longest of them, then times, figures, words."""
    taken: list[tuple[int, int, Token]] = []

    def free(start: int, end: int) -> bool:
        return all(end <= s or start >= e for s, e, _ in taken)

    folded = sentence.casefold()
    if len(folded) == len(sentence):
        for label, items in _labels(facts):
            for found in re.finditer(rf"(?<!\w){re.escape(label)}(?!\w)", folded):
                if free(*found.span()):
                    taken.append((*found.span(), Token("name", sentence[slice(*found.span())], items)))
    for start, end, time in times_in(sentence):
        if free(start, end):
            items = tuple(n for n, item in enumerate(facts.items) if time in item.times)
            taken.append((start, end, Token("time", time, items)))
    for found in _FIGURE[language].finditer(sentence):
        value = _value(found.group(), language)
        if free(*found.span()) and value is not None:
            taken.append((*found.span(), value))
    for pattern, kind in ((_WORD, "word"), (_STOP, "stop")):
        for found in pattern.finditer(sentence):
            if free(*found.span()):
                taken.append((*found.span(), Token(kind, found.group())))  # type: ignore[arg-type]
    return [token for _, _, token in sorted(taken, key=lambda one: one[0])]


def _labels(facts: Facts) -> list[tuple[str, tuple[int, ...]]]:
    known: dict[str, list[int]] = {}
    for n, item in enumerate(facts.items):
        for label in item.labels:
            known.setdefault(label, []).append(n)
    # What is a time is found as one, however it is written.
    bare = {label: tuple(ns) for label, ns in known.items() if not any(times_in(label)) and not label.isdigit()}
    return sorted(bare.items(), key=lambda one: -len(one[0]))


def _value(text: str, language: str) -> Token | None:
    plain = text.replace("−", "-")
    plain = plain.replace(",", "") if language == "en" else plain.replace(".", "").replace(",", ".")
    try:
        value = Decimal(plain)
    except InvalidOperation:
        return None
    return Token("figure", text, (), value, len(plain.partition(".")[2]))


def clauses(sentence: Sequence[Token], known: Telling) -> list[list[Token]]:
    """Between stops; a stop between names, and figures, of one enumeration is none."""
    found: list[list[Token]] = [[]]
    for at, token in enumerate(sentence):
        if token.kind == "stop" and not (token.text == "," and _goes_on(sentence, at, known)):
            found.append([])
        elif token.kind != "stop":
            found[-1].append(token)
    return [clause for clause in found if clause]


def _goes_on(sentence: Sequence[Token], at: int, known: Telling) -> bool:
    """Whether a name stands before and right behind a comma, and no other word."""
    after = sentence[at + 1 : at + 2]
    return bool(at and sentence[at - 1].kind == "name" and after and after[0].kind == "name")


def has(clause: Sequence[Token], wanted: frozenset[str]) -> Iterator[int]:
    """Places of words, or of the first of two that belong together."""
    said = [token.folded if token.kind == "word" else "" for token in clause]
    pairs = [entry.split("…") for entry in wanted if "…" in entry]
    for at, word in enumerate(said):
        if word and (word in wanted or any(word == one and other in said[at + 1 :] for one, other in pairs)):
            yield at


def says(clause: Sequence[Token], wanted: frozenset[str]) -> bool:
    """Whether one of these words is in it."""
    return any(True for _ in has(clause, wanted))


def is_figure(part: Sequence[Token]) -> bool:
    """Whether there is a figure in it."""
    return any(token.kind == "figure" for token in part)


def items_of(part: Sequence[Token]) -> list[int]:
    """The things that are named in it, in order."""
    return list(dict.fromkeys(n for token in part for n in token.items))
