"""English on the level of words: tokens, stems, numbers, and which words carry no content."""

from __future__ import annotations

import re
from dataclasses import dataclass

_COUNTING = "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen"
NUMBERS = {w: n for n, w in enumerate(_COUNTING.split())} | {"twenty": 20, "thirty": 30, "fifty": 50, "hundred": 100}

EMPTY = frozenset(
    (
        "a an the of in on at to for from with by and or is are was were be been being do does did done has have "
        "had it its this that these those there their them they we us our me my i you your he she what which who "
        "whose how many much when where why will would can could should may might must as so far still just only "
        "meaning meant decides also than then per each every all any some no not please show list give tell find get "
        "see made make take "
        "taken took come came go goes went gone run runs ran through via during within over between into out up "
        "down off about start starting begin first last next once number count amount figure figures total "
        "overall sum mean average avg minimum maximum max min most least more less fewer fewest top bottom best "
        "worst highest lowest biggest smallest largest high low common frequent frequently rare share percentage "
        "percent proportion split distribution rate compare compared comparison against versus vs order ordered "
        "sort sorted ranked ascending descending day week month quarter year hour weekday date time times daily "
        "weekly monthly yearly quarterly hourly long longer older above below under exceeding ago since before "
        "after until today yesterday tomorrow now current currently previous past leave leaves left happen "
        "happened occur occurred record recorded say said actually exactly different various single individual "
        "respective carry carried because use uses used using work works worked working never "
    ).split()
)
"""Words that a question may hold without asking for anything in the schema."""

NAMELESS = EMPTY - {"amount"}
"""Of these, the words that do not name a column by themselves."""

PEOPLE = frozenset(
    "captain mate engineer deckhand steward manager employee worker staff crew member person people sailor".split()
)
PAY = frozenset("earn earns earned salary wage wages pay paid income".split())
CHANGES = frozenset(
    (
        "delete remove erase drop truncate empty clear update change set insert add create alter rename cancel "
        "correct overwrite reset purge wipe"
    ).split()
)

_TOKEN = re.compile(r"[Qq][1-4]\b|[^\W\d_]+(?:'[^\W\d_]+)?|\d{4}-\d{2}-\d{2}|\d+(?:[.,]\d+)*|%")


@dataclass(frozen=True)
class Token:
    """A word of the question: as written, lower case, and its stem."""

    text: str
    low: str
    stem: str


def stem(word: str) -> str:
    """Plural and possessive off; nothing cleverer."""
    word = word.lower().replace("’", "'")
    if word == "people":
        return "person"
    if word.endswith("'s"):
        word = word[:-2]
    if len(word) > 4 and word.endswith("ies"):
        return word[:-3] + "y"
    if len(word) > 4 and word.endswith(("sses", "xes", "ches", "shes")):
        return word[:-2]
    if len(word) > 3 and word.endswith("s") and not word.endswith(("ss", "us", "is")):
        return word[:-1]
    return word


_DERIVED = ("ations", "ation", "ings", "ing", "ures", "ure", "ed", "als", "al", "s", "")
_ROOT = 4


def root(word: str) -> str:
    """What a word has in common with those made of it: cancelled, cancellation; empty for short ones."""
    ending = next(e for e in _DERIVED if word.endswith(e))
    found = word.removesuffix(ending) if ending else word
    return found.removesuffix("e") if len(found.removesuffix("e")) >= _ROOT else ""


def tokens(text: str) -> list[Token]:
    """The words and numbers of a text, in order; hyphens and underscores separate."""
    text = text.replace("’", "'")
    return [Token(t, t.lower(), stem(t)) for t in _TOKEN.findall(text)]


def stems(text: str) -> tuple[str, ...]:
    """The stems of a phrase or a name; humps and underscores separate."""
    parted = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", " ", text).replace("_", " ")
    return tuple(t.stem for t in tokens(parted))


def number(token: Token) -> int | None:
    """The whole number that a token says, if it does."""
    if token.low.isdigit():
        return int(token.low)
    return NUMBERS.get(token.low)
