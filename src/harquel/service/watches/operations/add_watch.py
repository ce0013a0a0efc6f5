"""Has the question of an answer watched."""

from __future__ import annotations

import datetime as dt
from typing import Final

from harquel.contract import Watch, WatchRequest, events
from harquel.core.clock import utc_now
from harquel.core.watching import NotWhen, Seen, State, When, judge, rule_of, when_of
from harquel.service.errors import ProblemError
from harquel.service.inquiries.finding import INQUIRY
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.inquiries.operations.draw import answer_of, must_have_rows
from harquel.service.inquiries.shapes import inquiry_of
from harquel.service.ledger.append import append
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime
from harquel.service.sources.finding import source_for

from ..models import StoredWatch
from ..run import fingerprint, new_key
from ..shapes import quiet_of, watch_shape

MOST: Final = 100
"""Watched questions of one person."""


@operation(
    "watch.add", takes=WatchRequest, about=INQUIRY, scope="ask", gives=Watch, repeat="once",
    entries=("watch-added", "watch-ran", "sent-on", "arrived", "not-arrived", "watch-ended"),
    rule="one's own; told to whom the source's policy lets answers go, for the roles that it names",
)  # fmt: skip
def add_watch(call: Call[WatchRequest, StoredInquiry]) -> Watch:
    """Has the question of an answer of one's own asked again by itself, with one's rights of each moment, and told."""
    stored, caller, wish = call.about, call.caller, call.asked
    if stored.person_id != caller.person:
        raise ProblemError(403, "not-own-inquiry", "problem-not-own-sent")
    inquiry = inquiry_of(stored)
    must_have_rows(answer_of(inquiry))
    source = source_for(stored.source, caller)
    allowed = source.core.policy.sending
    for to in dict.fromkeys(wish.to):
        if allowed is None or not allowed.lets_by(to, caller.roles):
            raise ProblemError(403, "not-sent-there", "problem-not-sent-there", to=to)
        if runtime().carriers.to(to) is None:
            raise ProblemError(409, "no-such-destination", "problem-no-such-destination", to=to)
    zone = source.core.notes.calendar.zone
    when = must_be_when(wish.when, zone)
    try:
        rule = rule_of(wish.tell, wish.line, wish.back)
    except ValueError as error:
        raise ProblemError(422, "no-such-line", "problem-watch-line") from error
    try:
        quiet_of(wish.quiet, zone)
    except ValueError as error:
        raise ProblemError(422, "no-such-hours", "problem-watch-quiet") from error
    if StoredWatch.objects.filter(person_id=caller.person).exclude(state="ended").count() >= MOST:
        raise ProblemError(429, "too-many-watches", "problem-too-many-watches")
    table = answer_of(inquiry).table
    # What is known when it begins is what later ones are held against.
    begun = judge(rule, State(), Seen.of(table.rows, [c.type for c in table.columns], table.row_count)).state
    now = utc_now()

    def store() -> Watch:
        if (before := call.once.earlier()) is not None:
            return watch_shape(StoredWatch.objects.select_related("person").get(key=before))
        made = StoredWatch.objects.create(
            key=new_key(), person_id=caller.person, token_id=caller.token, inquiry=stored.key, source=stored.source,
            title=" ".join(wish.title.split()) or (inquiry.standalone_question or inquiry.question)[:200],
            created_at=now, said=wish.when, cron=when.cron, zone=zone, next_at=when.after(now), happens=wish.tell,
            line=wish.line, back=wish.back, quiet=wish.quiet, to=list(dict.fromkeys(wish.to)), attach=wish.attach,
            figure=str(begun.figure) if begun.figure is not None else None, digest=begun.digest, holds=begun.holds,
            fingerprint=fingerprint(source),
        )  # fmt: skip
        what = events.WatchAdded(watch=made.key, when=when.cron, tell=wish.tell, to=list(made.to), token=caller.token)
        append(who=caller.name, what=what, inquiry=stored.key)
        call.once.settle(made.key)
        return watch_shape(made)

    found = runtime().writer.do(store)
    runtime().clock.wake()
    return found


def must_be_when(text: str, zone: str) -> When:
    """Raises ProblemError."""
    try:
        return when_of(text, zone, dt.datetime.now(dt.UTC))
    except NotWhen as error:
        raise ProblemError(422, "not-when", "problem-when", said=error.said, zone=zone) from error
