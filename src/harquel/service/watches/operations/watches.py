"""What is watched: looked at, changed, ended."""

from __future__ import annotations

from typing import Final

from django.db.models import QuerySet

from harquel.contract import Watch, WatchChange, Watches, events
from harquel.core.clock import utc_now
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError, not_found
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, Nothing, Subject, operation
from harquel.service.runtime import runtime

from ..models import StoredRun, StoredWatch
from ..shapes import watch_shape
from .add_watch import must_be_when

_RULE: Final = "one's own; with audit anybody's of one's sources"
_SHOWN: Final = 500


def _visible(caller: Caller) -> QuerySet[StoredWatch]:
    found = StoredWatch.objects.select_related("person")
    if not caller.may("audit"):
        return found.filter(person_id=caller.person)
    return found if caller.everywhere else found.filter(source__in=caller.sources)


def _find(key: str, caller: Caller) -> StoredWatch:
    found = _visible(caller).filter(key=key).first()
    if found is None:
        raise not_found("problem-unknown-watch", key)
    return found


def _own(key: str, caller: Caller) -> StoredWatch:
    found = StoredWatch.objects.select_related("person").filter(key=key, person_id=caller.person).first()
    if found is None:
        raise not_found("problem-unknown-watch", key)
    return found


_WATCH: Final = Subject("watch", "watch", _find, _RULE)
_OWN: Final = Subject("watch of one's own", "watch", _own, "one's own")


@operation("watch.list", takes=Nothing, about=NO_SUBJECT, gives=Watches, rule=_RULE)
def list_watches(call: Call[Nothing, None]) -> Watches:
    """The questions that are watched, each with its last run."""
    return Watches([watch_shape(one) for one in _visible(call.caller).order_by("-pk")[:_SHOWN]])


@operation("watch.read", takes=Nothing, about=_WATCH, gives=Watch)
def read_watch(call: Call[Nothing, StoredWatch]) -> Watch:
    """One, with its last runs."""
    return watch_shape(call.about, runs=True)


@operation(
    "watch.change", takes=WatchChange, about=_OWN, scope="ask", gives=Watch, repeat="same", entries=("watch-changed",)
)  # fmt: skip
def change_watch(call: Call[WatchChange, StoredWatch]) -> Watch:
    """Lets it rest or go on, or says when anew; what was missed while it rested is not caught up."""
    wish = call.asked
    when = must_be_when(wish.when, call.about.zone) if wish.when is not None else None

    def change() -> Watch:
        found = StoredWatch.objects.select_related("person").get(pk=call.about.pk)
        if found.state == "ended":
            raise ProblemError(409, "watch-ended", "problem-watch-ended")
        if when is not None and wish.when is not None:
            found.said, found.cron = wish.when, when.cron
        if wish.paused is not None:
            found.state = "paused" if wish.paused else "on"
        if when is not None or wish.paused is False:
            found.next_at = must_be_when(found.cron, found.zone).after(utc_now())
        found.save(update_fields=["said", "cron", "state", "next_at"])
        append(who=call.caller.name, what=events.WatchChanged(watch=found.key, state=found.state, when=found.cron))
        return watch_shape(found, runs=True)

    made = runtime().writer.do(change)
    runtime().clock.wake()
    return made


@operation(
    "watch.end", takes=Nothing, about=_OWN, scope="ask", repeat="same", entries=("watch-ended",)
)  # fmt: skip
def end_watch(call: Call[Nothing, StoredWatch]) -> None:
    """Ends it; what it has told stays."""

    def end() -> None:
        if StoredWatch.objects.filter(pk=call.about.pk).exclude(state="ended").update(state="ended"):
            append(who=call.caller.name, what=events.WatchEnded(watch=call.about.key, why="by whoever had it watched"))

    runtime().writer.do(end)


@operation(
    "watch.run", takes=Nothing, about=_OWN, scope="ask", gives=Watch, repeat="anew",
    entries=("watch-ran", "sent-on", "arrived", "not-arrived"),
)  # fmt: skip
def run_watch(call: Call[Nothing, StoredWatch]) -> Watch:
    """Has it asked and judged now, as if it were due."""

    def due() -> None:
        found = StoredWatch.objects.get(pk=call.about.pk)
        if found.state == "ended":
            raise ProblemError(409, "watch-ended", "problem-watch-ended")
        if not StoredRun.objects.filter(watch=found).exclude(state="done").exists():
            StoredRun.objects.create(watch=found, due_at=utc_now())

    runtime().writer.do(due)
    runtime().clock.wake()
    return watch_shape(call.about, runs=True)
