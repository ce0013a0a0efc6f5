"""What it takes to keep the ships running: fuel and maintenance."""

from __future__ import annotations

import datetime as dt
import random
from collections.abc import Iterator
from decimal import Decimal

from .places import RETIRED_ON, RETIRED_VESSEL, VESSELS, Row

WORK = {
    "inspection": ("yearly hull survey", "safety gear check", "lifeboat test"),
    "repair": ("replace bow thruster seal", "mend ramp hydraulics", "fix port radar"),
    "overhaul": ("main engine overhaul", "gearbox overhaul"),
    "painting": ("paint car deck", "paint superstructure"),
}


def fuel(seed: str, start: dt.date, as_of: dt.datetime) -> Iterator[Row]:
    """id, vessel_id, logged_at, litres, price_per_litre_eur, odometer_nm; nearly every day."""
    rng = random.Random(f"{seed}:fuel")
    odometer = {int(v[0]): 40000.0 + 9000 * int(v[0]) for v in VESSELS}  # type: ignore[call-overload]
    number = 0
    for offset in range((as_of.date() - start).days + 1):
        day = start + dt.timedelta(days=offset)
        for vessel in VESSELS:
            vessel_id = int(vessel[0])  # type: ignore[call-overload]
            if rng.random() < 0.1 or (vessel_id == RETIRED_VESSEL and day >= RETIRED_ON):
                continue
            at = dt.datetime(day.year, day.month, day.day, rng.randint(5, 9), rng.randint(0, 59))
            if at > as_of:
                continue
            miles = rng.uniform(35, 95)
            odometer[vessel_id] += miles
            number += 1
            litres = miles * float(vessel[4]) * rng.uniform(0.16, 0.21)  # type: ignore[arg-type]
            price = Decimal(round(82 + 14 * rng.random())) / 100
            yield (number, vessel_id, at, round(litres, 1), price, round(odometer[vessel_id], 1))


def maintenance(seed: str, start: dt.date, as_of: dt.datetime) -> Iterator[Row]:
    """id, vessel_id, opened_on, closed_on, kind, cost_cents, order."""
    rng = random.Random(f"{seed}:maintenance")
    days = (as_of.date() - start).days
    opened = sorted(rng.randint(0, days - 2) for _ in range(190))
    for number, offset in enumerate(opened, 1):
        day = start + dt.timedelta(days=offset)
        kind = rng.choices(tuple(WORK), (40, 35, 8, 17))[0]
        closed = day + dt.timedelta(days=rng.randint(1, 75))
        stuck = rng.random() < 0.05
        fleet = 6 if day < RETIRED_ON else 5
        yield (
            number, rng.randint(1, fleet), day, None if stuck or closed > as_of.date() else closed,
            kind, rng.randint(120, 9800) * 100, rng.choice(WORK[kind]),
        )  # fmt: skip
