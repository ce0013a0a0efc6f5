"""Wishes about the picture, in words: at the end of a question, or as a further sentence about an answer.

"… as a bar chart" says how to draw what was asked for, and asks nothing of the data; "only the top 20" and "by vessel",
said of an answer, choose among its rows. A word that the source has a name with is never taken for such a wish: what is
taken off a question is not asked any more, and is told beside the answer.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from typing import Final

from harquel.contract.charts import MOST_PLACES, ChartKind, ChartWish
from harquel.core.answers.charts.seen import Seen
from harquel.core.language import language_of, pack
from harquel.core.language.pack import Pack
from harquel.core.language.say import LANGUAGES

_WORD: Final = re.compile(r"[\w'’]+(?:-[\w'’]+)*")
_SHORTEST: Final = 2
"""Words that a question has left once its wish is taken off it."""
_ENDS: Final = " ,;:–-"


@dataclass(frozen=True)
class Asked:
    """A question without what it wishes of the picture; `table`: no picture, as was said."""

    question: str
    words: str = ""
    """Those that were taken off."""
    wish: ChartWish | None = None
    table: bool = False


@dataclass(frozen=True)
class _Picture:
    kind: ChartKind | None
    words: int
    named: bool
    """Whether it is called a chart, so that it can be nothing else."""
    table: bool = False


def without_wish(question: str, names: Callable[[], AbstractSet[str]]) -> Asked:
    """A question with the wish at its end taken off; as it is where there is none.

    `names` are the words, in small letters, of which the names of the source are made.
    """
    known = pack(language_of(question))
    found = list(_WORD.finditer(question))
    words = [match[0].casefold() for match in found]
    for at, word in enumerate(words):
        if word not in known.as_a or at < _SHORTEST:
            continue
        start = at + 1
        while start < len(words) and words[start] in known.light:
            start += 1
        picture = _picture(words[start:], known)
        if picture is None or start + picture.words != len(words) or not (picture.named or word in known.only_as):
            continue
        # A "bar chart" is nothing that a source holds, "bars" may be.
        if not picture.named and {w.rstrip("s") for w in words[start:]} & {n.rstrip("s") for n in names()}:
            return Asked(question)
        rest, after = question[: found[at].start()].rstrip(_ENDS), question[found[-1].end() :].strip()
        text = rest + ("?" if "?" in after or "?" in rest else "")
        said = question[found[at].start() : found[-1].end()]
        return Asked(text, said, None if picture.table else ChartWish(kind=picture.kind), picture.table)
    return Asked(question)


def understood(text: str, seen: Seen) -> ChartWish | None:
    """What a further sentence wishes of the picture, in whatever language; None where none of it is understood."""
    return next((wish for language in LANGUAGES if (wish := _understood(text, seen, pack(language)))), None)


def _understood(text: str, seen: Seen, known: Pack) -> ChartWish | None:
    words = [match[0].casefold() for match in _WORD.finditer(text)]
    said: dict[str, int | str | None] = {}
    at = 0
    while at < len(words):
        picture = _picture(words[at:], known)
        if picture is not None and not picture.table:
            said["kind"] = picture.kind or said.get("kind")
            at += picture.words
        elif words[at].isdecimal() and len(words[at]) <= len(str(MOST_PLACES)):
            said["top"] = min(max(int(words[at]), 1), MOST_PLACES)
            at += 1
        elif words[at] in known.each and (column := _column(words[at + 1 :], seen)) is not None:
            said["figure" if seen.columns[column[0]].figure else "along"] = seen.columns[column[0]].at
            at += 1 + column[1]
        elif words[at] in known.light | known.articles | known.only_first | known.as_a:
            at += 1
        else:
            return None
    return ChartWish.model_validate(said) if any(v is not None for v in said.values()) else None


def _picture(words: Sequence[str], known: Pack) -> _Picture | None:
    """The kind of picture that words begin with."""
    if not words:
        return None
    first, second = words[0], words[1] if len(words) > 1 else ""
    kind = known.pictures.get(first)
    if kind is not None:
        named = second in known.chart
        return _Picture(None if kind == "table" else kind, 1 + named, named, kind == "table")  # type: ignore[arg-type]
    if first in known.chart:
        return _Picture(None, 1, False)
    for word in known.chart:
        stem = first.removesuffix(word).rstrip("-")
        if stem != first and stem in known.pictures:
            return _Picture(known.pictures[stem], 1, True)  # type: ignore[arg-type]
    return None


def _column(words: Sequence[str], seen: Seen) -> tuple[int, int] | None:
    """Which column words begin with, and how many of them: by what it is called."""
    for place, column in enumerate(seen.columns):
        called = [w.casefold() for w in _WORD.findall(column.label)]
        for size in range(len(called), 0, -1):
            if _same(words[:size], called[:size]) or _same(words[:size], called[-size:]):
                return place, size
    return None


def _same(one: Sequence[str], other: Sequence[str]) -> bool:
    """Whether words are the same but for a plural's ending."""
    return len(one) == len(other) and all(a.rstrip("s") == b.rstrip("s") for a, b in zip(one, other, strict=True))
