"""A reading in a few words, part by part: how the question was understood, for whoever asked it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import reduce
from typing import Final

from harquel.core.calendar import Calendar
from harquel.core.domain.notes import ColumnNotes, Notes
from harquel.core.language.say import say
from harquel.core.language.when import period
from harquel.core.reading.value import (
    Condition,
    Each,
    Figure,
    Inner,
    Kept,
    Order,
    Per,
    Plain,
    Reading,
    Standard,
    Term,
    Time,
    Worth,
)

_LONGEST: Final = 300
"""Characters of a part; the form may hold more than anybody reads."""


@dataclass(frozen=True)
class Understood:
    """One part of a reading in a few words, and those of the question that it stands for, as they are quoted."""

    text: str
    words: str = ""
    assumed: bool = False
    """Whether it narrows the rows without a word of the question for it."""


def understood_as(reading: Reading, notes: Notes, now: dt.datetime, language: str = "en") -> list[Understood]:
    """Its parts in the order of the form, codes by their meanings; the text of each has at most 300 characters.

    `now` is the instant that the question is about, as clocks show it where people are.
    """
    return _Words(now, notes.calendar, language).parts(_with_meanings(reading, notes))


def _with_meanings(reading: Reading, notes: Notes) -> Reading:
    """With the meaning of a code in place of the code, in conditions on the rows themselves."""

    def meant(condition: Condition) -> Condition:
        owner, _, name = (condition.column or "").rpartition(">")[2].rpartition(".")
        about = notes.of(owner or reading.rows).columns.get(name, ColumnNotes())
        values = tuple(about.codes.get(str(v), v) for v in condition.values)
        return condition.model_copy(update={"values": values})

    return reading.model_copy(update={"only": tuple(map(meant, reading.only))})


@dataclass(frozen=True)
class _Words:
    now: dt.datetime
    calendar: Calendar
    language: str

    def say(self, message: str, **values: str | int) -> str:
        return say(self.language, f"read-{message}", **values)

    def both(self, parts: Iterable[str]) -> str:
        """All of them, one after the other."""
        return reduce(lambda one, other: self.say("and", one=one, other=other), parts)

    def parts(self, reading: Reading) -> list[Understood]:
        parts = [Understood(self.say("rows", table=reading.rows), reading.words)]
        parts += [Understood(self._condition(c), c.words, not c.words) for c in reading.only]
        parts += [Understood(self._time(t), t.words, not t.words) for t in reading.during]
        parts += [Understood(self._figure(f, reading), f.words) for f in reading.figures]
        if reading.show:
            shown = ", ".join(s if isinstance(s, str) else self._worth(s) for s in reading.show)
            words = " … ".join(s.words for s in reading.show if isinstance(s, Worth))
            parts.append(Understood(self.say("listed", columns=shown), words))
        parts += [Understood(self._per(p), p.words) for p in reading.per]
        parts += [Understood(self._kept(k), k.words) for k in reading.keep] + self._of_groups(reading)
        return [p if len(p.text) <= _LONGEST else replace(p, text=p.text[: _LONGEST - 1] + "…") for p in parts]

    def _of_groups(self, reading: Reading) -> list[Understood]:
        """What is made of the groups or rows once they are there: which of them are given, in which order."""
        parts = []
        if (across := reading.across) is not None:
            said = self.say("across", figure=across.figure, n=str(across.of + 1))
            given = [reading.per[n].column for n in across.per if n < len(reading.per)]
            said = reduce(lambda one, column: self.say("for-each", said=one, column=column), given, said)
            parts.append(Understood(said, across.words))
        parts += [Understood(self.say("tally"), "")] if reading.tally else []
        if (each := reading.each) is not None:
            by = self.say("unit-of", unit=self._unit(each.unit), column=each.per) if each.unit else each.per
            which = self.say("first-of-each", n=str(each.top), by=by)
            which = self.say("only-from", which=which) if reading.first_rows() is not None else which
            parts.append(Understood(self.say("ordered", which=which, by=self._ordered(each)), each.words))
        parts += [Understood(self.say("order", by=self._ordered(order)), order.words) for order in reading.order]
        if reading.top is not None:
            parts.append(Understood(self.say("top-both" if reading.both else "top", n=f"{reading.top:,}")))
        return parts

    def _ordered(self, order: Order | Each) -> str:
        by = order.by if isinstance(order.by, str) else self.say("figure-number", n=str(order.by + 1))
        return self.say("highest-first" if order.descending else "lowest-first", by=by)

    def _unit(self, unit: str) -> str:
        return self.say(f"unit-{unit.replace(' ', '-')}")

    def _where(self, said: str, only: Iterable[Condition], during: Iterable[Time]) -> str:
        """Something with the conditions and times that narrow it."""
        narrowed = [*map(self._condition, only), *map(self._time, during)]
        return self.say("where", what=said, conditions=self.both(narrowed)) if narrowed else said

    def _figure(self, figure: Figure, reading: Reading) -> str:
        if figure.between is not None:
            one, other = (str(n + 1) for n in figure.between)
            return self.say(f"of-{figure.figure}", one=one, other=other)
        if figure.figure == "share":
            return self.say("share", what=self._where(self.say("share-of"), figure.only, figure.during))
        said = self._of(figure.figure, self._worth(figure) if figure.figure != "count" else "")
        return self._where(said, figure.only, figure.during)

    def _of(self, figure: str, what: str) -> str:
        """A figure of something."""
        return self.say(f"figure-{figure}", what=what)

    def _worth(self, worth: Worth) -> str:
        if worth.since is not None:
            return self.say("lasted", unit=worth.unit, since=worth.since, until=self._term(worth.of))
        said = self._term(worth.of)
        for name, term in (("less", worth.less), ("times", worth.times), ("over", worth.over)):
            said = self.say(name, what=said, other=self._term(term)) if term else said
        return self.say("divided", what=said, by=f"{worth.divided:g}") if worth.divided != 1 else said

    def _term(self, term: Term | None) -> str:
        if not isinstance(term, Inner):
            return str(term)
        what = self.say("how-many") if term.figure == "count" else self._of(term.figure, term.of or "")
        what = self.say("times", what=what, other=term.times) if term.times else what
        return self._where(self.say("of-rows", what=what, table=term.rows), term.only, term.during)

    def _condition(self, condition: Condition) -> str:
        said = self._plain(condition)
        return self.say("not", what=said) if condition.turned else said

    def _plain(self, condition: Condition) -> str:
        if condition.any:
            return reduce(lambda one, other: self.say("or", one=one, other=other), map(self._condition, condition.any))
        if condition.has is not None:
            return self._has(condition, condition.has)
        values = condition.other or ", ".join(map(self._value, condition.values))
        values = self._standard(condition.than) if condition.than is not None else values
        what = self._worth(condition.worth) if condition.worth is not None else str(condition.column)
        what = self.say("unit-of", unit=self._unit(condition.unit), column=what) if condition.unit else what
        return self.say(f"is-{condition.how.replace(' ', '-')}", what=what, value=values).rstrip()

    def _has(self, condition: Condition, table: str) -> str:
        bounds = [("at-least", condition.at_least), ("at-most", condition.at_most)]
        counts = [self.say(word, n=str(n)) for word, n in bounds if n is not None]
        count = self.both(counts) if counts else self.say("some")
        what = self.say("different-of", column=condition.different, table=table) if condition.different else table
        message = "has-different" if condition.different else "has"
        said = self.say(message, count=count, what=what)
        said = self.say("of-the-same", what=said, unit=self._unit(condition.same)) if condition.same else said
        return self._where(said, condition.only, condition.during)

    def _standard(self, than: Standard) -> str:
        if than.figure == "count":
            what = self.say("number-of", what=than.rows)
        elif than.figure == "distinct":
            what = self.say("number-of", what=self._of("distinct", self._worth(than)))
        else:
            what = self._of(than.figure, self._worth(than))
        said = self.say("the", what=what)
        said = self.say("of-the-same", what=said, unit=than.within) if than.within else said
        return self._where(said, than.only, than.during)

    def _value(self, value: Plain) -> str:
        return self.say("empty") if value is None else str(value)

    def _time(self, time: Time) -> str:
        ends = " – ".join(end for end in (time.since, time.until) if end is not None)
        said = period(time.since, time.until, self.now, self.language, self.calendar) or ends
        return self.say("dated", when=said, column=time.column) if time.column else said

    def _kept(self, kept: Kept) -> str:
        value = f"{kept.value:g}" if kept.value is not None else self.say("the-average")
        value = self.say("of-the-same", what=value, unit=kept.within) if kept.within else value
        what = self.say("figure-number", n=str(kept.figure + 1))
        return self.say("kept", what=self.say(f"is-{kept.how.replace(' ', '-')}", what=what, value=value))

    def _per(self, per: Per) -> str:
        return self.say(
            "per", what=self.say("unit-of", unit=self._unit(per.unit), column=per.column) if per.unit else per.column
        )
