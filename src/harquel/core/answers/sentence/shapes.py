"""One sentence or two for each shape of a result: a figure, several, a ranking, a trend, a list, nothing.

Made from the reading that gave the same rows, so that what it says of them holds of the question as it was read; the
values are those on show. What is not put into words here has none: then the result is told by its rows (wording.py).
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, partial
from typing import Any, Final

from harquel.core.answers.sentence import names
from harquel.core.answers.sentence.figures import apart, number, shown
from harquel.core.answers.sentence.restated import restated
from harquel.core.calendar import FISCAL
from harquel.core.domain.inquiry import ResultColumn, ResultTable
from harquel.core.domain.notes import Notes
from harquel.core.language import pack
from harquel.core.language.say import say
from harquel.core.language.when import bucket, follows, instant, period, step_on, under_way
from harquel.core.reading import Reading
from harquel.core.reading.value import Condition, Figure, Per, Time

TRENDS: Final = frozenset({"year", "quarter", "month", "week", "day", *FISCAL})
_LEAST_OF_A_TREND: Final = 3
_NAMED: Final = 3
"""Things of a list that are named."""
_LONGEST: Final = 80
"""Characters of a name of the data."""
_MOST: Final = 600
"""Characters of a sentence; what is longer is told by its rows."""


@dataclass(frozen=True)
class Told:
    """What a sentence is made from. `places` are the table's columns by those of the reading's own statement: first
    what figures are given for, then the figures; or the columns of a list.
    """

    question: str
    reading: Reading
    table: ResultTable
    places: Mapping[int, int]
    notes: Notes
    now: dt.datetime
    language: str

    def say(self, message: str, **values: str | int) -> str:
        """In the language of whoever asked."""
        return say(self.language, message, **values)

    def column(self, place: int) -> tuple[ResultColumn, list[Any]] | None:
        """What stands in the place of a column of the reading; None where the table has none."""
        at = self.places.get(place)
        if at is None:
            return None
        return self.table.columns[at], [row[at] for row in self.table.rows]

    def figure(self, which: int) -> tuple[ResultColumn, list[Any]] | None:
        """A figure of the reading."""
        return self.column(len(self.reading.per) + which)

    @cached_property
    def scope(self) -> str:
        """The conditions and times that hold for all of it, as they stand in parentheses and before them."""
        said = [self.asked(self.reading.only), names.kept(self.reading, self.language)]
        return ", ".join(s for s in said if s)

    def asked(self, conditions: Iterable[Condition]) -> str:
        """Conditions as they stand in parentheses."""
        said = names.conditions(conditions, self.reading, self.notes, self.language)
        # What began the question does not begin a sentence here.
        begins = said and self.question.startswith(said[:1]) and said.split(",")[0] in self.question[: len(said)]
        return said[:1].lower() + said[1:] if begins and not pack(self.language).capital_nouns else said

    @cached_property
    def when(self) -> str:
        """The times that hold for all of it."""
        return self.dated(self.reading.during)

    @property
    def plain_when(self) -> str:
        """The time alone, where the words of the question around it say what it is the time of."""
        times = self.reading.during
        if len(times) != 1:
            return ""
        return period(times[0].since, times[0].until, self.now, self.language, self.notes.calendar)

    def goes_on(self, begins: dt.datetime | None, unit: str) -> bool:
        """Whether a unit of a trend has not ended."""
        return under_way(begins, unit, self.notes.calendar.moved(self.now, unit))

    def cut_off(self, begins: dt.datetime | None, unit: str) -> bool:
        """Whether a unit of a trend reaches beyond the time that was asked for, so that only a part of it is there."""
        if begins is None or len(self.reading.during) != 1:
            return False
        moved = partial(self.notes.calendar.moved, unit=unit)
        since, until = (instant(end or "") for end in (self.reading.during[0].since, self.reading.during[0].until))
        before = since is not None and begins < moved(since)
        return before or (until is not None and begins < moved(until) < step_on(begins, unit))

    def dated(self, times: Sequence[Time]) -> str:
        """Times as they stand in a sentence."""
        return names.when(times, self.reading, self.notes, self.now, self.language)

    def headline(self, figure: Figure) -> str:
        """What is measured, by what, of what, and when."""
        what = names.label(self.reading, figure, self.notes, self.language)
        if self.reading.per:
            by = names.joined([names.per_what(per, self.language) for per in self.reading.per], self.language)
            what = self.say("by", what=what, per=by)
        when = " ".join(w for w in (self.when, self.dated(figure.during)) if w)
        return names.first_up(self.narrowed(what, [self.scope, self.asked(figure.only)], when))

    def narrowed(self, what: str, scope: Iterable[str], when: str) -> str:
        """Something with its conditions and its time."""
        said = ", ".join(s for s in scope if s and s.casefold() not in what.casefold())
        what = self.say("with-conditions", what=what, conditions=said) if said else what
        return f"{what} {when}".strip()


def sentence(told: Told) -> str | None:
    """The sentence; None where there is none for this shape, or where something in it has no name."""
    reading = told.reading
    if reading.tally or reading.across is not None or reading.each is not None or reading.both or reading.open:
        return None
    try:
        said = _shaped(told)
    except names.Unnamed:
        return None
    return said if said is None or len(said) <= _MOST else None


def _shaped(told: Told) -> str | None:
    reading, table = told.reading, told.table
    if not table.rows:
        return _nothing(told)
    if table.cut_by is not None:
        return None
    return _listed(told) if not reading.figures else _one_row(told) if not reading.per else _groups(told)


def _nothing(told: Told) -> str | None:
    if told.reading.figures and not told.reading.per:
        return None
    figure = told.reading.figures[0] if told.reading.figures else None
    what = told.headline(figure) if figure is not None else _what(told)
    return told.say("none", what=what[:1].lower() + what[1:] if told.language == "en" else what)


def _what(told: Told) -> str:
    return told.narrowed(names.things(told.reading, None, told.language), [told.scope], told.when)


def _one_row(told: Told) -> str | None:
    figures = [(f, found) for n, f in enumerate(told.reading.figures) if (found := told.figure(n)) is not None]
    if not figures or len(figures) > _NAMED or len(told.table.rows) != 1:
        return None
    if len(told.reading.figures) == 1:
        figure, (column, (value,)) = figures[0]
        again = restated(told.question, told.reading, value, told.plain_when, told.language)
        return again or told.say("figure", what=told.headline(figure), value=shown(value, column, told.language))
    return _two_times(told, figures) or _several(told, figures)


def _two_times(told: Told, figures: list[tuple[Figure, tuple[ResultColumn, list[Any]]]]) -> str | None:
    """The same figure of two times."""
    dated = [(f, c, v[0]) for f, (c, v) in figures if len(f.during) == 1]
    if len(dated) != 2 or any(f.between is None and not f.during for f, _ in figures):
        return None
    (one, column, here), (other, _, there) = dated
    alike = {"during": (), "words": ""}
    same = one.model_copy(update=alike) == other.model_copy(update=alike)
    if not same or number(here) is None or number(there) is None:
        return None
    times = [told.dated(f.during) for f in (one, other)]
    what = names.label(told.reading, one, told.notes, told.language)
    what = told.narrowed(what, [told.scope, told.asked(one.only)], "")
    way = _way(here, there)
    values = {"one": shown(here, column, told.language), "other": shown(there, column, told.language)}
    gap = apart(here, there, column, told.language)
    return told.say(way, what=names.first_up(what), period=times[0], before=times[1], difference=gap, **values)


def _way(here: Any, there: Any) -> str:
    one, other = number(here) or 0, number(there) or 0
    return "more" if one > other else "less" if one < other else "level"


def _several(told: Told, figures: list[tuple[Figure, tuple[ResultColumn, list[Any]]]]) -> str | None:
    parts = []
    for figure, (column, values) in figures:
        if figure.between is not None or figure.during:
            return None
        what = names.label(told.reading, figure, told.notes, told.language)
        narrowed = told.asked(figure.only)
        what = told.say("with-conditions", what=what, conditions=narrowed) if narrowed else what
        parts.append(told.say("part", what=what, value=shown(values[0], column, told.language)))
    head = " ".join(s for s in (told.scope, told.when) if s)
    said = ", ".join(parts)
    return told.say("figures", head=names.first_up(head), parts=said) if head else f"{names.first_up(said)}."


def _listed(told: Told) -> str | None:
    """How many there are, and what the first of them are called."""
    reading, rows = told.reading, told.table.rows
    title = told.notes.of(reading.rows).label
    by_name = [
        n for n, shown_ in enumerate(reading.show) if isinstance(shown_, str) and title == shown_.rpartition(".")[2]
    ]
    texts = [n for n in range(len(reading.show)) if (c := told.column(n)) is not None and c[0].type == "text"]
    place = next(iter([*by_name, *texts]), None)
    found = told.column(place) if place is not None else None
    if found is None:
        return None
    called = [_name(v) for v in found[1][:_NAMED] if v is not None]
    if not called:
        return None
    what = _what(told) if len(rows) > 1 else names.first_up(_what(told))
    more, count = len(rows) - len(called), f"{len(rows):,}"
    said = ", ".join(called)
    if more > 0:
        return told.say("list-more", n=count, things=what, names=said, more=str(more))
    return told.say("list", n=count, count=len(rows), things=what, names=said)


def _name(value: Any) -> str:
    """A text of the data, bounded."""
    text = " ".join(str(value).split())
    return text if len(text) <= _LONGEST else text[: _LONGEST - 1] + "…"


# -- figures for each of something ---------------------------------------------------------------------


@dataclass(frozen=True)
class Group:
    """One thing or time, and its figure."""

    name: str
    value: Any
    begins: dt.datetime | None = None

    @property
    def worth(self) -> Any:
        """The figure as a number."""
        return number(self.value)


def _groups(told: Told) -> str | None:
    reading = told.reading
    by = names.leading(reading)
    found = groups_of(told)
    if found is None:
        return None
    column, groups = found
    what = told.headline(reading.figures[by])
    # The best of the months are no course of time.
    chosen = reading.top is not None or (bool(reading.order) and isinstance(reading.order[0].by, int))
    unit = reading.per[0].unit if len(reading.per) == 1 else None
    if unit in TRENDS and not chosen:
        return _trend(told, groups, what, column, str(unit))
    return _ranking(told, groups, what, column)


def groups_of(told: Told) -> tuple[ResultColumn, list[Group]] | None:
    """The figure that a result is about for each thing or time; None where a name or a figure of it is missing."""
    by = names.leading(told.reading)
    if not told.reading.per or by >= len(told.reading.figures):
        return None
    found, called = told.figure(by), _called(told)
    if found is None or called is None:
        return None
    groups = [Group(name, value, begins) for (name, begins), value in zip(called, found[1], strict=True)]
    return None if any(group.worth is None for group in groups) else (found[0], groups)


def _called(told: Told) -> list[tuple[str, dt.datetime | None]] | None:
    """What each group is called, and where it begins if it is one of a time; None where the table does not say."""
    keys = [told.column(n) for n in range(len(told.reading.per))]
    if any(key is None for key in keys):
        return None
    columns = [
        [_key(told, per, value) for value in key[1]] for per, key in zip(told.reading.per, keys, strict=True) if key
    ]
    return [(", ".join(name for name, _ in said), said[0][1]) for said in zip(*columns, strict=True)]


def _key(told: Told, per: Per, value: Any) -> tuple[str, dt.datetime | None]:
    if value is None:
        return told.say("unsaid"), None
    text, at = bucket(value, per.unit or "", told.language)
    return _name(text), at


def _ranking(told: Told, groups: list[Group], what: str, column: ResultColumn) -> str:
    language, order = told.language, told.reading.order
    down = not order or order[0].descending
    ranked = sorted(groups, key=lambda g: g.worth, reverse=down)
    first, last = ranked[0], ranked[-1]
    value, count = shown(first.value, column, language), f"{len(ranked):,}"
    if len(ranked) == 1:
        return told.say("highest" if down else "lowest", what=what, name=first.name, value=value, then="")
    if first.worth == last.worth:
        return told.say("all-equal", what=what, value=value, all=count)
    level = [g for g in ranked if g.worth == first.worth]
    if len(level) > 1:
        said = told.say("level-first", what=what, names=_all_named(level, language), value=value)
    else:
        gap = apart(first.value, ranked[1].value, column, language)
        then = told.say(
            "ahead" if down else "below", difference=gap, name=ranked[1].name,
            value=shown(ranked[1].value, column, language),
        )  # fmt: skip
        said = told.say("highest" if down else "lowest", what=what, name=first.name, value=value, then=then)
    if len(ranked) == 2:
        return said
    other = "then-last" if told.reading.top is not None else "then-lowest" if down else "then-highest"
    return f"{said} {told.say(other, all=count, name=last.name, value=shown(last.value, column, language))}"


def _all_named(level: list[Group], language: str) -> str:
    """Groups that are level, the first few by name."""
    told = [g.name for g in level[:_NAMED]]
    # Names of two parts hold a comma themselves.
    if any(", " in name for name in told):
        return "; ".join([*told, "…"] if len(level) > _NAMED else told)
    return ", ".join([*told, "…"]) if len(level) > _NAMED else names.joined(told, language)


def _trend(told: Told, groups: list[Group], what: str, column: ResultColumn, unit: str) -> str | None:
    if any(g.begins is None for g in groups):
        return None
    going = sorted(groups, key=lambda g: g.begins or told.now)
    unfinished = going.pop() if told.goes_on(going[-1].begins, unit) and told.reading.top is None else None
    cut = [g for g in (going[0], going[-1]) if told.cut_off(g.begins, unit)] if len(going) > 1 else []
    going = [g for g in going if g not in cut]
    if len(going) < _LEAST_OF_A_TREND or len({g.begins for g in going}) != len(going):
        return None
    apart_from_it = [("in-part", group) for group in cut]
    apart_from_it += [("unfinished", unfinished)] if unfinished is not None else []
    said = [_course(told, going, what, column, unit)]
    said += [told.say(m, name=g.name, value=shown(g.value, column, told.language)) for m, g in apart_from_it]
    return " ".join(said)


def _course(told: Told, going: list[Group], what: str, column: ResultColumn, unit: str) -> str:
    """How whole units went on, the last of them held against the one before."""
    language, first, last = told.language, going[0], going[-1]
    most, least = max(g.worth for g in going), min(g.worth for g in going)
    high, low = ([g for g in going if g.worth == worth] for worth in (most, least))
    if most == least:
        return told.say(
            "trend-flat", what=what, value=shown(first.value, column, language), **{"from": first.name}, to=last.name
        )
    values = {"first": first, "last": last, "most": high[0], "least": low[0]}
    said = told.say(
        "trend", what=what, **{k: shown(g.value, column, language) for k, g in values.items()},
        **{"from": first.name, "to": last.name, "high": _all_named(high, language), "low": _all_named(low, language)},
    )  # fmt: skip
    return f"{said} {_step(told, going[-2], last, column)}" if follows(going[-2].begins, last.begins, unit) else said


def _step(told: Told, before: Group, last: Group, column: ResultColumn) -> str:
    way = {"more": "trend-up", "less": "trend-down", "level": "trend-level"}[_way(last.value, before.value)]
    gap = apart(last.value, before.value, column, told.language)
    return told.say(way, difference=gap, last=last.name, before=before.name)
