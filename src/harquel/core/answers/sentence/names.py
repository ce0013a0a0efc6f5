"""What a reading's parts are called: in the words of whoever asked, and in those of the notes where there are none."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Iterable, Sequence

from harquel.core.domain.notes import ColumnNotes, Notes
from harquel.core.language import pack
from harquel.core.language.say import say
from harquel.core.language.when import period
from harquel.core.reading.value import Condition, Figure, Per, Reading, Time

_WORD = re.compile(r"[\w'’.,%&/+-]+")


def content(words: str, language: str) -> str:
    """The words without those at either end that only ask."""
    known = pack(language)
    kept = _WORD.findall(words.replace("…", " "))
    while kept and kept[0].casefold() in known.light | known.asking:
        del kept[0]
    while kept and kept[-1].casefold() in known.light | known.asking:
        del kept[-1]
    return " ".join(kept)


def leading(reading: Reading) -> int:
    """Which figure a result is about: that by which it is ordered, else a share where one is asked for."""
    by = reading.order[0].by if reading.order else None
    if isinstance(by, int):
        return by
    return next((n for n, figure in enumerate(reading.figures) if figure.figure == "part"), 0)


class Unnamed(Exception):
    """Nobody has said what a part is called."""


def things(reading: Reading, figure: Figure | None, language: str) -> str:
    """What is counted or listed. Raises Unnamed."""
    said = content(figure.words, language) if figure is not None else ""
    return said or _known(content(reading.words, language) if not reading.order and reading.top is None else "")


def label(reading: Reading, figure: Figure, notes: Notes, language: str) -> str:
    """What a figure is called. Raises Unnamed."""
    if figure.figure in ("count", "distinct"):
        return things(reading, figure, language)
    measure = figure.figure == "measure" and isinstance(figure.of, str) and figure.of in notes.measures
    said = content(figure.words, language)
    # A verb that stands for an agreed measure ("earned") is no name for it.
    noun = pack(language).capital_nouns and said[:1].isupper()
    return str(figure.of) if measure and not noun else _known(said)


def per_what(per: Per, language: str) -> str:
    """What figures are given for each of."""
    return content(per.words, language) or (per.unit or plain(per.column))


def _known(said: str) -> str:
    if not said:
        raise Unnamed
    return said


def plain(name: str) -> str:
    """A name of the database in words: its last part, without what joins them."""
    return " ".join(re.sub(r"[^\w]", " ", name.rpartition(">")[2].rpartition(".")[2]).replace("_", " ").split())


def conditions(parts: Iterable[Condition], reading: Reading, notes: Notes, language: str) -> str:
    """All of them: in the words of whoever asked, or by the values that they ask for. Raises Unnamed."""
    said = (_said(c.words, language) or _known(_by_values(c, reading, notes, language)) for c in parts)
    return ", ".join(dict.fromkeys(said))


def kept(reading: Reading, language: str) -> str:
    """Which groups were asked for. Raises Unnamed."""
    return ", ".join(dict.fromkeys(_known(_said(one.words, language)) for one in reading.keep))


def _said(words: str, language: str) -> str:
    """As it was quoted; nothing where no more is quoted than that something is not so."""
    text = " ".join(words.replace("…", " ").split()).strip(" ,;.?!")
    return text if set(content(text, language).casefold().split()) - pack(language).denials else ""


def _by_values(condition: Condition, reading: Reading, notes: Notes, language: str) -> str:
    """The values that a column is asked to have, codes by their meanings."""
    apart = condition.unit or condition.other or condition.than or condition.worth or condition.any or condition.has
    if apart or condition.column is None or condition.how not in ("equal", "in"):
        return ""
    owner, _, name = condition.column.rpartition(">")[2].rpartition(".")
    known = notes.of(owner or reading.rows).columns.get(name, ColumnNotes())
    meant = [known.codes.get(str(value), value) for value in condition.values]
    if not meant or not all(isinstance(value, str) and value for value in meant):
        return ""
    text = ", ".join(map(str, meant))
    return say(language, "not", what=text) if condition.turned else text


def when(times: Sequence[Time], reading: Reading, notes: Notes, now: dt.datetime, language: str) -> str:
    """The time that narrows the rows, as it was asked for where it is not the one that usually dates them. Raises
    Unnamed.

    Of several times each would have to be told with what it is the time of.
    """
    if len(times) != 1:
        return _known("" if times else " ").strip()
    said = _known(period(times[0].since, times[0].until, now, language, notes.calendar))
    column = (times[0].column or "").removeprefix(f"{reading.rows}.")
    measures = [notes.measures[f.of] for f in reading.figures if isinstance(f.of, str) and f.of in notes.measures]
    usual = {(m.when or "").removeprefix(f"{reading.rows}.") for m in measures} or {notes.of(reading.rows).when or ""}
    if not column or column in usual:
        return said
    return say(language, "by-time", when=said, words=_known(_said(times[0].words, language)))


def joined(parts: Sequence[str], language: str) -> str:
    """Several things, the last one after an "and"."""
    return say(language, "and", one=", ".join(parts[:-1]), other=parts[-1]) if len(parts) > 1 else "".join(parts)


def first_up(text: str) -> str:
    """With a capital letter at its head."""
    return text[:1].upper() + text[1:]
