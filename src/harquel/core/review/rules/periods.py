"""The times that the query looks at are those that the question names, whole, and of equal length when compared.

Bad:  "in July 2026": WHERE scheduled_departure BETWEEN '2026-07-01' AND '2026-07-31'
Good: WHERE scheduled_departure >= '2026-07-01' AND scheduled_departure < '2026-08-01'
"""

from __future__ import annotations

import datetime as dt

from harquel.core.briefing.meanings import Meaning
from harquel.core.domain.findings import Finding
from harquel.core.review.calendar import is_temporal, moment
from harquel.core.review.context import ReviewContext
from harquel.core.review.periods import EARLIEST, LATEST, Period
from harquel.core.review.rules.rule import rule
from harquel.core.review.times import Spans, Window, both, either

CODE = "period"
_SLACK = dt.timedelta(minutes=1)


@rule(CODE, "period-left-out", "period-unasked", "last-day-lost", "periods-unequal")
def periods(context: ReviewContext) -> list[Finding]:
    """What is wrong with the times, in one finding."""
    wanted, windows = context.question.periods, context.windows
    if not wanted:
        return _unasked(context, windows)
    if not windows:
        said = ", ".join(_shown(p) for p in wanted)
        message = f"The question is about {said}; the query takes all times."
        return [context.finding("period-left-out", "error", message, _hint(context, wanted))]
    named = _named(context, windows)
    if named is not None:
        return [named]
    known = _known(windows)
    want = _clipped([(p.start, p.end) for p in wanted], known)
    short = _clipped([(p.start, p.at_least) for p in wanted], known)
    have: Spans = ()
    for window in windows:
        have = either(have, window.spans)
    have = _clipped(list(have), known)
    # Twelve months back from now may begin at this hour or with this day.
    slack = _SLACK if all(p.calendar for p in wanted) else dt.timedelta(days=1)
    if _fits(have, short, want, slack) or any(
        _fits(_clipped(list(w.spans), known), short, want, slack) for w in windows[:1] if len(windows) == 1
    ):
        return []
    if len(windows) > 1 and _each_fits(windows, wanted, known):
        return []
    return [_differs(context, have, want, short, wanted, windows[0])]


def _named(context: ReviewContext, windows: list[Window]) -> Finding | None:
    """A time right behind a word belongs to that word's column: promised before May, joined in 2026."""
    question = context.question
    looked = {
        c.ref.key for c in context.statement.conditions
        if c.ref is not None and is_temporal(c.ref.column) and c.op not in ("is null", "is not null")
    }  # fmt: skip
    for period in question.periods:
        before = [i for i, w in enumerate(question.words) if w.end <= period.first][-2:]
        for mention in question.mentions:
            if mention.last not in before or any(m.kind in ("table", "measure") for m in mention.meanings):
                continue
            word = question.words[mention.last]
            if not word.text.endswith("ed"):
                continue  # a verb says when; a noun only what
            meant = {
                (m.table, m.column) for m in (*mention.meanings, *context.parts(word.stem))
                if m.kind == "column" and m.table in context.statement.names.reads and _is_time(context, m)
            }  # fmt: skip
            tables = {table for table, _ in meant}
            if len(meant) == 1 and not meant & looked and any(table in tables for table, _ in looked):
                table, column = next(iter(meant))
                message = f"The question says when it was {word.text}; the query looks at another time than {column}."
                return context.finding(CODE, "warning", message, f"Limit {table}.{column}.", windows[0].node)
    return None


def _is_time(context: ReviewContext, meaning: Meaning) -> bool:
    table = context.catalog.table(meaning.table)
    column = table.column(meaning.column) if table is not None else None
    return column is not None and is_temporal(column)


def _unasked(context: ReviewContext, windows: list[Window]) -> list[Finding]:
    now = context.question.now.replace(tzinfo=None)
    for window in windows:
        if context.question.numbers or any(abs(e - now) <= dt.timedelta(days=1) for s in window.spans for e in s):
            continue
        known = _known([window])
        if _clipped(list(window.spans), known) == _clipped([(EARLIEST, LATEST)], known):
            continue
        message = f"The query looks at {_said(window.spans)} only; the question names no time."
        return [
            context.finding(
                "period-unasked", "warning", message, "Take all times, unless the question means some.", window.node
            )
        ]
    return []


def _known(windows: list[Window]) -> Spans:
    """The times for which the columns hold anything."""
    found: Spans = ()
    for window in windows:
        for ref in window.refs:
            low, high = moment(ref.column.low), moment(ref.column.high)
            if low is None or high is None:
                return ((EARLIEST, LATEST),)
            found = either(found, ((low, high + dt.timedelta(days=1)),))
    return found or ((EARLIEST, LATEST),)


def _clipped(spans: list[tuple[dt.datetime, dt.datetime]], known: Spans) -> Spans:
    merged: Spans = ()
    for start, end in spans:
        if start < end:
            merged = either(merged, ((start, end),))
    return both(merged, known)


def _fits(have: Spans, short: Spans, want: Spans, slack: dt.timedelta = _SLACK) -> bool:
    """Whether each interval begins where it should and ends between the earliest and the latest end."""
    if len(have) != len(want):
        return False
    starts = [s for s, _ in want]
    least = [max((e for s, e in short if s == start), default=start) for start in starts]
    return all(
        abs(have[i][0] - want[i][0]) <= slack and least[i] - _SLACK <= have[i][1] <= want[i][1] + _SLACK
        for i in range(len(want))
    )


def _each_fits(windows: list[Window], wanted: list[Period], known: Spans) -> bool:
    """Whether each part of the statement looks at one of the periods, and each period is looked at."""
    seen = set()
    for window in windows:
        here = _clipped(list(window.spans), known)
        fits = [
            i for i, p in enumerate(wanted)
            if _fits(here, _clipped([(p.start, p.at_least)], known), _clipped([(p.start, p.end)], known))
        ]  # fmt: skip
        if not fits:
            return False
        seen |= set(fits)
    return len(seen) == len(wanted)


def _differs(
    context: ReviewContext, have: Spans, want: Spans, short: Spans, wanted: list[Period], window: Window
) -> Finding:
    said = ", ".join(_shown(p) for p in wanted)
    code, message = CODE, f"The question is about {said}; the query looks at {_said(have)}."
    if len(have) == len(want) and have and have[0][0] == want[0][0]:
        gap = want[-1][1] - have[-1][1]
        if dt.timedelta(0) < gap <= dt.timedelta(days=1):
            code, message = "last-day-lost", f"The last day of {said} is left out: the upper bound is its beginning."
    if len(wanted) > 1:
        code = "periods-unequal"
        message = f"The question compares {said}; the query looks at {_said(have)}, which are not those."
    return context.finding(code, "error", message, _hint(context, wanted), window.node)


def _hint(context: ReviewContext, wanted: list[Period]) -> str:
    parts = [
        f"from {_moment(p.start)} up to, not including, {_moment(p.end)}"
        for p in wanted
        if p.start > EARLIEST and p.end < LATEST
    ]
    return f"Take {' and '.join(parts)}." if parts else "Take the time that the question names."


def _shown(period: Period) -> str:
    return period.label


def _said(spans: Spans) -> str:
    def one(start: dt.datetime, end: dt.datetime) -> str:
        if start == EARLIEST:
            return f"what is before {_moment(end)}"
        return f"what is from {_moment(start)} on" if end == LATEST else f"{_moment(start)} to {_moment(end)}"

    return " and ".join(one(*s) for s in spans[:3]) if spans else "no time at all"


def _moment(at: dt.datetime) -> str:
    return at.strftime("%Y-%m-%d") if (at.hour, at.minute, at.second) == (0, 0, 0) else at.strftime("%Y-%m-%d %H:%M:%S")
