"""A reading in a few words, part by part: how the question was understood, for whoever asked it."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace
from typing import Final

from harquel.core.calendar import Calendar
from harquel.core.domain.notes import ColumnNotes, Notes
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

_TESTS: Final = {
    "equal": "is", "in": "is one of", "less": "less than", "at most": "at most", "more": "more than",
    "at least": "at least", "between": "between", "like": "like", "empty": "is empty",
}  # fmt: skip
_FIGURES: Final = {
    "distinct": "different {}", "sum": "sum of {}", "average": "average of {}", "minimum": "least {}",
    "maximum": "most {}", "measure": "{}", "median": "middle {}",
}  # fmt: skip
_OF_GROUPS: Final = {
    "part": "figure {} as a part of all, in percent", "running": "figure {} so far",
    "change": "what figure {} is more than before",
}  # fmt: skip
_LONGEST: Final = 300
"""Characters of a part; the form may hold more than anybody reads."""


@dataclass(frozen=True)
class Understood:
    """One part of a reading in a few words, and those of the question that it stands for, as they are quoted."""

    text: str
    words: str = ""
    assumed: bool = False
    """Whether it narrows the rows without a word of the question for it."""


def understood_as(reading: Reading, notes: Notes, now: dt.datetime) -> list[Understood]:
    """Its parts in the order of the form, codes by their meanings; the text of each has at most 300 characters.

    `now` is the instant that the question is about.
    """
    return _Words(now, notes.calendar).parts(_with_meanings(reading, notes))


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

    def parts(self, reading: Reading) -> list[Understood]:
        parts = [Understood(f"rows of {reading.rows}", reading.words)]
        parts += [Understood(self._condition(c), c.words, not c.words) for c in reading.only]
        parts += [Understood(self._time(t), t.words, not t.words) for t in reading.during]
        parts += [Understood(self._figure(f, reading), f.words) for f in reading.figures]
        if reading.show:
            shown = ", ".join(s if isinstance(s, str) else self._worth(s) for s in reading.show)
            parts.append(
                Understood(f"listed with {shown}", " … ".join(s.words for s in reading.show if isinstance(s, Worth)))
            )
        parts += [Understood(self._per(p), p.words) for p in reading.per]
        parts += [Understood(self._kept(k), k.words) for k in reading.keep] + self._of_groups(reading)
        return [p if len(p.text) <= _LONGEST else replace(p, text=p.text[: _LONGEST - 1] + "…") for p in parts]

    def _of_groups(self, reading: Reading) -> list[Understood]:
        """What is made of the groups or rows once they are there: which of them are given, in which order."""
        parts = []
        if (across := reading.across) is not None:
            given = "".join(f" for each {reading.per[n].column}" for n in across.per if n < len(reading.per))
            parts.append(Understood(f"the {across.figure} of figure {across.of + 1}{given}", across.words))
        parts += [Understood("how many of those there are", "")] if reading.tally else []
        if (each := reading.each) is not None:
            which = f"the first {each.top} of each {f'{each.unit} of ' if each.unit else ''}{each.per}"
            which = f"only from {which}" if reading.first_rows() is not None else which
            parts.append(Understood(f"{which} by {self._ordered(each)}", each.words))
        parts += [Understood(f"by {self._ordered(order)}", order.words) for order in reading.order]
        if reading.top is not None:
            parts.append(Understood(f"the first {reading.top:,}" + (" from either end" if reading.both else "")))
        return parts

    def _ordered(self, order: Order | Each) -> str:
        by = order.by if isinstance(order.by, str) else f"figure {order.by + 1}"
        return f"{by}, {'highest' if order.descending else 'lowest'} first"

    def _figure(self, figure: Figure, reading: Reading) -> str:
        narrowed = [*map(self._condition, figure.only), *map(self._time, figure.during)]
        where = f" where {' and '.join(narrowed)}" if narrowed else ""
        if figure.between is not None:
            one, other = (n + 1 for n in figure.between)
            if figure.figure in _OF_GROUPS:
                return _OF_GROUPS[figure.figure].format(one)
            return f"{figure.figure} of figures {one} and {other}"
        if figure.figure == "share":
            return f"share{where}, in percent"
        said = "counted" if figure.figure == "count" else _FIGURES.get(figure.figure, "{}").format(self._worth(figure))
        return said + where

    def _worth(self, worth: Worth) -> str:
        if worth.since is not None:
            return f"{worth.unit} from {worth.since} to {self._term(worth.of)}"
        said = self._term(worth.of)
        said += f" less {self._term(worth.less)}" if worth.less else ""
        said += f" times {self._term(worth.times)}" if worth.times else ""
        said += f" for each of {self._term(worth.over)}" if worth.over else ""
        return said + (f", divided by {worth.divided:g}" if worth.divided != 1 else "")

    def _term(self, term: Term | None) -> str:
        if not isinstance(term, Inner):
            return str(term)
        named = term.of or ""
        what = {"count": "how many", "measure": named}.get(term.figure) or _FIGURES[term.figure].format(named)
        where = " and ".join([*map(self._condition, term.only), *map(self._time, term.during)])
        times = f" times {term.times}" if term.times else ""
        return f"{what}{times} of {term.rows}" + (f" where {where}" if where else "")

    def _condition(self, condition: Condition) -> str:
        turned = "not: " if condition.turned else ""
        if condition.any:
            return turned + " or ".join(map(self._condition, condition.any))
        if condition.has is not None:
            inner = [*map(self._condition, condition.only), *map(self._time, condition.during)]
            bounds = [("at least", condition.at_least), ("at most", condition.at_most)]
            count = " and ".join(f"{word} {n}" for word, n in bounds if n is not None) or "some"
            what = (
                f"different {condition.different} of {condition.has}" if condition.different else f"of {condition.has}"
            )
            what += f" of the same {condition.same}" if condition.same else ""
            return f"{turned}{count} {what}" + (f" where {' and '.join(inner)}" if inner else "")
        values = condition.other or ", ".join(map(self._value, condition.values))
        values = self._standard(condition.than) if condition.than is not None else values
        if condition.worth is not None:
            return f"{turned}{self._worth(condition.worth)} {_TESTS[condition.how]} {values}"
        part = f"{condition.unit} of " if condition.unit else ""
        return f"{turned}{part}{condition.column} {_TESTS[condition.how]} {values}".rstrip()

    def _standard(self, than: Standard) -> str:
        what = f"number of {than.rows}" if than.figure == "count" else _FIGURES[than.figure].format(self._worth(than))
        what = f"number of {what}" if than.figure == "distinct" else what
        where = " and ".join([*map(self._condition, than.only), *map(self._time, than.during)])
        within = f" of the same {than.within}" if than.within else ""
        return f"the {what}{within}" + (f" where {where}" if where else "")

    def _value(self, value: Plain) -> str:
        return "empty" if value is None else str(value)

    def _time(self, time: Time) -> str:
        by = f" by {time.column}" if time.column else ""
        ends = " – ".join(end for end in (time.since, time.until) if end is not None)
        return (period(time.since, time.until, self.now, "en", self.calendar) or ends) + by

    def _kept(self, kept: Kept) -> str:
        value = f"{kept.value:g}" if kept.value is not None else "the average"
        within = f" of the same {kept.within}" if kept.within else ""
        return f"kept where figure {kept.figure + 1} is {_TESTS[kept.how]} {value}{within}"

    def _per(self, per: Per) -> str:
        return f"per {per.unit} of {per.column}" if per.unit else f"per {per.column}"
