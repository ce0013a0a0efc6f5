"""Years of the service's own clock of watched questions, on records of its own, by a clock that also stands, jumps
ahead and jumps back. Run as a program: FOLDER SEED DAYS; prints what went wrong, and how many runs there were.
"""

from __future__ import annotations

import datetime as dt
import os
import random
import sys
from collections.abc import Callable
from itertools import count
from typing import Any
from zoneinfo import ZoneInfo

ZONE = ZoneInfo("Europe/Berlin")
TIMES = {"2:30": dt.time(2, 30), "8:00": dt.time(8), "0:15": dt.time(0, 15)}


def moment(day: dt.date, at: dt.time) -> dt.datetime:
    """When clocks show a time on a day; what is left out in spring comes right after that. By the zone alone."""
    shown = dt.datetime.combine(day, at, ZONE)
    there = shown.astimezone(dt.UTC)
    if there.astimezone(ZONE).time() == at:
        return there
    return dt.datetime.combine(day, dt.time(3), ZONE).astimezone(dt.UTC)


def looks(dice: random.Random, begin: dt.datetime, days: int) -> list[dt.datetime]:
    """The instants at which the service looks: every few hours, with three downtimes, and a clock that is put."""
    now, end, made = begin, begin + dt.timedelta(days=days), list[dt.datetime]()
    down = {dice.randrange(days) for _ in range(3)}
    while now < end:
        made.append(now)
        day = (now - begin).days
        step = dt.timedelta(minutes=dice.randrange(20, 700))
        if day in down:
            down.discard(day)
            step = dt.timedelta(days=dice.randrange(2, 30))
        elif dice.random() < 0.01:
            step = -dt.timedelta(minutes=dice.randrange(1, 3_000))
        elif dice.random() < 0.01:
            step = dt.timedelta(days=dice.randrange(1, 5), minutes=dice.randrange(1_440))
        now += step
    return made


def expected(seen: list[dt.datetime], at: dt.time, begin: dt.datetime) -> list[dt.datetime]:
    """Of the times that have come since the latest instant so far the last, at each look."""
    first = begin.astimezone(ZONE).date()
    days = (max(seen) - begin).days + 3
    times = [t for n in range(-1, days) if (t := moment(first + dt.timedelta(days=n), at)) > begin]
    latest, runs = begin, list[dt.datetime]()
    for now in seen:
        if come := [t for t in times if latest < t <= now]:
            runs.append(come[-1])
            times = [t for t in times if t > come[-1]]
        latest = max(latest, now)
    return runs


def main(folder: str, seed: int, days: int) -> None:
    """See above."""
    os.environ |= {"HARQUEL_DATA_DIR": folder, "DJANGO_SETTINGS_MODULE": "harquel.service.settings"}
    import django

    django.setup()
    from django.core.management import call_command

    from harquel.service.access.models import Person, Token
    from harquel.service.watches import clock as clock_of
    from harquel.service.watches.clock import Clock
    from harquel.service.watches.models import StoredRun, StoredWatch

    call_command("migrate", verbosity=0, interactive=False)
    dice, begin = random.Random(seed), dt.datetime(2026, 1, 1, 12, tzinfo=dt.UTC)
    person = Person.objects.create(name="Odo Finch")
    token = Token.objects.create(person=person, name="x", digest="x")
    number = count()
    watches = {
        said: StoredWatch.objects.create(
            key=f"w{next(number)}", person=person, token=token, inquiry="x", source="x", title="x", created_at=begin,
            said=said, cron=f"{at.minute} {at.hour} * * *", zone="Europe/Berlin", happens="always",
            next_at=min(t for n in (0, 1) if (t := moment(begin.date() + dt.timedelta(days=n), at)) > begin),
        )
        for said, at in TIMES.items()
    }  # fmt: skip

    class At:
        now = begin

    class Writer:
        def do(self, work: Callable[[], Any], **_: object) -> Any:
            return work()

    def done(run: StoredRun, _: object) -> None:
        if run.due_at > At.now:
            print("early", run.due_at, At.now)
        StoredRun.objects.filter(pk=run.pk).update(state="done", outcome="told")

    clock_of.utc_now = lambda: At.now  # type: ignore[assignment]
    # All of them are wanted here.
    clock_of._KEPT = dt.timedelta(days=100_000)  # type: ignore[misc]
    clock = Clock(Writer(), lambda: False)  # type: ignore[arg-type]
    clock._run = done
    seen = looks(dice, begin, days)
    for At.now in seen:
        clock._round()
    for said, watch in watches.items():
        ran = list(StoredRun.objects.filter(watch=watch).order_by("pk").values_list("due_at", flat=True))
        wanted = expected(seen, TIMES[said], begin)
        for was, should in zip(ran, wanted, strict=False):
            if was != should:
                print("otherwise", said, was, should)
                break
        print(said, len(ran), len(wanted))


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]))
