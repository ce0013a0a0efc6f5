"""From an intent to a reading: how the question is understood, in the form that the prompt describes, without SQL."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Iterable
from typing import Any

from .english import AVERAGE, IDLE, SHARE
from .intent import Figure, Filter, Group, Intent
from .joins import JoinTree, NoPath
from .periods import Period
from .prompt import Column, Prompt
from .words import Token, number

ASKED_FOR = '"rows":'
"""What stands in the wish for a reading, and in none for SQL."""
DENIALS = frozenset("no nobody none nor not never without".split())
_FUNCTIONS = {"SUM": "sum", "AVG": "average", "MAX": "maximum", "MIN": "minimum"}
_TESTS = {"=": "equal", "<": "less", "<=": "at most", ">": "more", ">=": "at least", "LIKE": "like"}


def read(intent: Intent, prompt: Prompt) -> dict[str, Any]:
    """The reading. What the form has no place for stands in `open`."""
    found: dict[str, Any] = {"rows": intent.base}
    words = prompt.words
    open_ = _unaccounted(intent, prompt)
    only = [_condition(f, intent, prompt, open_) | _said(words, f.said) for f in intent.filters]
    if intent.rows_of:
        found["show"] = _columns(intent, prompt)
    else:
        found["figures"], only = _figures(intent, words, only, open_)
    if intent.never:
        only.append({"has": intent.never, "not": True} | _said(words, intent.never_said))
    found["per"] = [_per(g, intent, prompt, open_) | _said(words, g.said) for g in intent.groups]
    found["only"] = only + _of_time(intent, prompt, words)
    times = zip(intent.periods, intent.periods_said, strict=True)
    during = [_time(p, intent.when) | _said(words, said) for p, said in times]
    _set_beside(found, during, intent, open_)
    if len({f.base for f in intent.figures}) > 1:
        open_.append("figures of different rows")
    found["order"] = _order(intent)
    if intent.limit:
        found["top"] = intent.limit
    ordered = intent.order_said if found["order"] or intent.limit else set()
    found |= _said(words, intent.rows_said | ordered)
    # Between two times both stand; between two places it would say more.
    idle = IDLE | {"between"} if len(intent.periods) > 1 and not intent.groups else IDLE
    found["idle"] = [w.text for w in words if w.low in idle]
    return {name: value for name, value in found.items() if value} | ({"open": open_} if open_ else {})


def _set_beside(found: dict[str, Any], during: list[dict[str, Any]], intent: Intent, open_: list[str]) -> None:
    """Several times are set beside each other: each figure in each of them."""
    if len(during) < 2 or intent.rows_of:
        found["during"] = during
        return
    if any(group.unit for group in intent.groups):
        open_.append("units of time in each of several times")
    found["figures"] = [figure | {"during": [time]} for time in during for figure in found["figures"]]


def _figures(
    intent: Intent, words: list[Token], only: list[dict[str, Any]], open_: list[str]
) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """The figures, and the conditions that are left: of a share they say which part is meant."""
    figures = [_figure(f) | _said(words, f.said) for f in intent.figures]
    if not intent.share:
        return figures, only
    share = [i for i, w in enumerate(words) if w.low in SHARE | {"rate"}]
    if intent.groups and only and not intent.figures[0].column:
        said = _said(
            words, [*share, *(i for f in intent.filters for i in f.said), *(i for f in intent.figures for i in f.said)]
        )
        return [{"figure": "share", "only": only} | said], []
    if intent.groups:
        return [*figures, {"figure": "part", "between": [0, 0]} | _said(words, share)], only
    if only:
        said = _said(words, [*share, *(i for f in intent.figures for i in f.said)])
        return [{"figure": "share", "only": only} | said], []
    open_.append("a share of which whole")
    return figures, only


def _said(words: list[Token], places: Iterable[int]) -> dict[str, str]:
    """The words of a part as they stand in the question."""
    text, last = "", -1
    for place in sorted(set(places)):
        # The second half of a word that says two things is quoted with the first.
        if not words[place].text:
            last = place
            continue
        text += (" " if place == last + 1 else " … ") * bool(text) + words[place].text
        last = place
    return {"words": text} if text else {}


def _unaccounted(intent: Intent, prompt: Prompt) -> list[str]:
    """Words that ask for something of which nothing came: a denial, a number, which figure is meant."""
    words = prompt.words
    low = {w.low for w in words}
    found = [
        w
        for w in sorted(low & DENIALS)
        if not intent.never and not any(f.negated or f.operator == "IS NULL" for f in intent.filters)
    ]
    said = [str(intent.limit), *(f.value for f in intent.filters), *(p.label for p in intent.periods)]
    known = {n for text in said for n in re.findall(r"\d+", text)} | {str(intent.older_than_days)}
    found += [
        w.text for w in words
        if (n := number(w)) is not None and str(n) not in known and not any(w.low in p.label for p in intent.periods)
    ]  # fmt: skip
    averaged = any(f.function == "AVG" and f.measure is None for f in intent.figures)
    if averaged and not low & AVERAGE:
        found.append("which figure is meant")
    return found


def _figure(figure: Figure) -> dict[str, Any]:
    if figure.measure is not None:
        return {"figure": "measure", "of": figure.measure.name}
    if figure.column is None:
        return {"figure": "count"}
    made: dict[str, Any] = {"figure": _FUNCTIONS[figure.function], "of": _named(figure.column)}
    if figure.since is not None:
        minutes = figure.column.temporal == figure.since.temporal == "timestamp"
        return made | {"since": _named(figure.since), "unit": "minutes" if minutes else "days"}
    return made | ({"divided": 100} if "cent" in figure.column.unit else {})


def _named(column: Column) -> str:
    return f"{column.table}.{column.name}"


def _reached(found: Filter, intent: Intent, prompt: Prompt, open_: list[str]) -> str:
    """A column, with the keys that lead to it where they matter."""
    if found.via is None:
        return _named(found.column)
    try:
        keys = JoinTree(prompt, intent.base, frozenset()).keys_to(found.via, found.column.table)
    except NoPath as fault:
        open_.append(str(fault))
        return _named(found.column)
    return ">".join([*keys, _named(found.column)])


def _condition(found: Filter, intent: Intent, prompt: Prompt, open_: list[str]) -> dict[str, Any]:
    made: dict[str, Any] = {"column": _reached(found, intent, prompt, open_)}
    if found.average:
        held = {"rows": found.column.table, "figure": "average", "of": _named(found.column)}
        return made | {"is": _TESTS[found.operator], "than": held}
    if found.operator == "IS NULL":
        made["is"] = "empty"
    elif found.operator in _TESTS:
        made |= {"is": _TESTS[found.operator], "values": [found.value]}
    else:
        open_.append(f"a condition with {found.operator}")
    return made | ({"not": True} if found.negated else {})


def _of_time(intent: Intent, prompt: Prompt, words: list[Token]) -> list[dict[str, Any]]:
    """Conditions on the time by which rows are dated: a day of the week, an age."""
    made: list[dict[str, Any]] = []
    when = _dated(intent, prompt) or "?"
    if intent.weekday is not None:
        made.append({"column": when, "unit": "weekday", "values": [intent.weekday]} | _said(words, intent.weekday_said))
    if intent.older_than_days is not None:
        before = prompt.now - dt.timedelta(days=intent.older_than_days)
        made.append({"column": when, "is": "less", "values": [before.isoformat(" ")]} | _said(words, intent.age_said))
    return made


def _per(group: Group, intent: Intent, prompt: Prompt, open_: list[str]) -> dict[str, Any]:
    if group.unit:
        return {"column": _dated(intent, prompt) or "?", "unit": group.unit}
    if group.column is not None:
        # Rows without a value are a group where the notes have a word for them.
        named = {"column": _named(group.column)}
        return named | ({"empty": True} if group.column.null_means and group.column.nullable else {})
    label = prompt.tables[group.table].naming_column()
    name = f"{group.table}.{label.name if label is not None else '?'}"
    if group.via is None:
        return {"column": name}
    try:
        keys = JoinTree(prompt, intent.base, frozenset()).keys_to(group.via, group.table)
    except NoPath as fault:
        open_.append(str(fault))
        return {"column": name}
    return {"column": ">".join([*keys, name])}


def _dated(intent: Intent, prompt: Prompt) -> str:
    """The time by which its rows are dated."""
    if intent.when is not None:
        return _named(intent.when)
    noted = next((f.measure.when for f in intent.figures if f.measure is not None and "." in f.measure.when), "")
    usual = prompt.dated(intent.base)
    return noted or (_named(usual) if usual is not None else "")


def _time(period: Period, when: Column | None) -> dict[str, Any]:
    # What is dated with this very instant counts too.
    until = period.end + dt.timedelta(seconds=1) if period.to_now and period.end is not None else period.end
    ends = {"from": period.start, "until": until}
    made: dict[str, Any] = {name: at.isoformat(" ") for name, at in ends.items() if at is not None}
    return made | ({"column": _named(when)} if when is not None else {})


def _columns(intent: Intent, prompt: Prompt) -> list[str]:
    """Those of the rows, and names instead of the keys that always lead to a row with one."""
    table = prompt.tables[intent.rows_of]
    shown = []
    for column in table.columns.values():
        target = prompt.tables.get(table.links.get(column.name, ("", ""))[0])
        label = target.label_column() if target is not None else None
        named = target is not None and label is not None and not column.nullable
        shown.append(f"{column.name}>{target.name}.{label.name}" if named and target and label else _named(column))
    return shown


def _order(intent: Intent) -> list[dict[str, Any]]:
    if intent.ranked_by is not None:
        return [{"by": _named(intent.ranked_by), "descending": not intent.ascending}]
    if intent.ascending is not None and intent.figures:
        return [{"by": 0, "descending": not intent.ascending}]
    return []
