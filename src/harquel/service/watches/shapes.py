"""Watched questions as they are told."""

from __future__ import annotations

import datetime as dt
import re

from harquel.contract import Watch, WatchRun
from harquel.core.watching import Quiet

from .models import StoredRun, StoredWatch

_QUIET = re.compile(r"([01]\d|2[0-3]):([0-5]\d)-([01]\d|2[0-3]):([0-5]\d)")
_RUNS = 20


def quiet_of(text: str | None, zone: str) -> Quiet | None:
    """Hours as they are written: 22:00-07:00. Raises ValueError for what is none."""
    if text is None:
        return None
    found = _QUIET.fullmatch(text)
    if found is None:
        raise ValueError(text)
    begins, ends = (dt.time(int(found[n]), int(found[n + 1])) for n in (1, 3))
    if begins == ends:
        raise ValueError(text)
    return Quiet(begins, ends, zone)


def watch_shape(stored: StoredWatch, runs: bool = False) -> Watch:
    """One, with its last runs where they are wanted."""
    last = list(stored.runs.order_by("-due_at", "-pk")[: _RUNS if runs else 1])
    return Watch(
        id=stored.key, title=stored.title, source=stored.source, inquiry=stored.inquiry, owner=stored.person.name,
        state=stored.state, why_ended=stored.why_ended, when=stored.said, cron=stored.cron, zone=stored.zone,
        next_at=stored.next_at if stored.state == "on" else None, tell=stored.happens, line=stored.line,
        back=stored.back,
        quiet=stored.quiet, to=list(stored.to), attach=stored.attach, failures=stored.failures,
        created_at=stored.created_at, runs=[_run_shape(one) for one in last],
    )  # fmt: skip


def _run_shape(stored: StoredRun) -> WatchRun:
    return WatchRun(
        due_at=stored.due_at, late=stored.late, state=stored.state, outcome=stored.outcome or None, why=stored.why,
        inquiry=stored.inquiry or None, figure=stored.figure, tries=stored.tries, ended_at=stored.ended_at,
    )  # fmt: skip
