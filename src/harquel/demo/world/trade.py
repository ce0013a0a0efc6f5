"""Who pays: customers, bookings, their items and payments."""

from __future__ import annotations

import datetime as dt
import random
from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal

from .places import ROUTES, Row
from .traffic import FIRST, LAST, Sailing

CHANNELS: tuple[str | None, ...] = ("web", "phone", "counter", "agent", None)
ITEM_SHARE = {"foot": 1.0, "car": 2.8, "van": 3.6, "bicycle": 0.4, "animal": 0.3}
ROUTE_PULL = {1: 1.5, 2: 1.7, 3: 1.2, 4: 0.9, 5: 1.05, 6: 1.4, 7: 0.55, 8: 0.75, 9: 0.6, 10: 0.65, 11: 0.4}


@dataclass(frozen=True)
class Trade:
    """Rows of the four tables, each in column order."""

    customers: list[Row]
    bookings: list[Row]
    items: list[Row]
    payments: list[Row]


def customers(seed: str, count: int, as_of: dt.datetime) -> Iterator[Row]:
    """id, name, email, phone, home_harbour, joined_on, is_staff, deleted_at."""
    rng = random.Random(f"{seed}:customers")
    for number in range(1, count + 1):
        first, last = rng.choice(FIRST), rng.choice(LAST)
        joined = dt.date(2021, 1, 1) + dt.timedelta(days=int(2080 * rng.random() ** 0.8))
        joined = min(joined, as_of.date())
        gone = None
        if rng.random() < 0.03:
            since = max(1, (as_of.date() - joined).days)
            gone = dt.datetime.combine(joined, dt.time(9)) + dt.timedelta(days=rng.randrange(since))
        phone = f"+00 555 {100000 + number}" if rng.random() < 0.8 else None
        home = rng.choices(range(1, 9), (9, 6, 2, 4, 3, 4, 2, 3))[0]
        email = f"{first}.{last}.{number}@post.example".lower()
        yield (number, f"{first} {last}", email, phone, home, joined, rng.random() < 0.02, gone)


def trade(seed: str, made: list[Sailing], scale: float, as_of: dt.datetime) -> Trade:
    """Bookings over all sailings; `scale` multiplies customers and bookings per sailing."""
    people = list(customers(seed, max(20, round(2400 * scale)), as_of))
    rng = random.Random(f"{seed}:bookings")
    miles = {int(r[0]): float(r[4]) for r in ROUTES}  # type: ignore[call-overload, arg-type]
    result = Trade(people, [], [], [])
    for sailing in made:
        high = sailing.scheduled_departure.month in (6, 7, 8)
        expected = 1.25 * scale * ROUTE_PULL[sailing.route_id] * (1.5 if high else 1.0)
        expected *= 1.12 if sailing.scheduled_departure.year == 2026 else 1.0
        for _ in range(int(expected) + (rng.random() < expected % 1)):
            _book(rng, result, sailing, miles[sailing.route_id], high, as_of)
    return result


def _book(rng: random.Random, into: Trade, sailing: Sailing, miles: float, high: bool, as_of: dt.datetime) -> None:
    booked = sailing.scheduled_departure - dt.timedelta(minutes=int(rng.expovariate(1 / 14000)) + 20)
    if booked > as_of:
        return
    number = len(into.bookings) + 1
    customer = into.customers[int(len(into.customers) * rng.random() ** 1.4)]
    past = sailing.scheduled_departure <= as_of
    status = "cancelled" if sailing.status == "X" and rng.random() < 0.9 else "confirmed"
    if status == "confirmed":
        odds = rng.random()
        status = "cancelled" if odds < 0.08 else "no_show" if odds < 0.11 and past else "confirmed"
    unit, total = (350 + 45 * miles) * (1.3 if high else 1.0), 0
    for kind in rng.choices(
        (("foot",), ("foot", "car"), ("foot", "bicycle"), ("car",), ("foot", "animal"), ("van",)),
        (50, 24, 9, 6, 7, 4),
    )[0]:
        quantity = rng.choice((1, 1, 2, 2, 3, 4)) if kind == "foot" else 1
        amount = round(unit * ITEM_SHARE[kind] / 10) * 10 * quantity
        total += amount
        into.items.append((len(into.items) + 1, number, kind, quantity, amount))
    channel = rng.choices(CHANNELS, (48, 17, 21, 9, 5))[0]
    into.bookings.append((number, customer[0], sailing.id, booked, channel, status, total))
    _pay(rng, into, number, booked, total, status, as_of)


def _pay(
    rng: random.Random, into: Trade, booking: int, booked: dt.datetime, cents: int, status: str, as_of: dt.datetime
) -> None:
    halves = (cents - cents // 3, cents // 3) if rng.random() < 0.18 else (cents,)
    for index, part in enumerate(halves):
        paid = booked + dt.timedelta(minutes=3 + index * 1440)
        if paid > as_of:
            continue
        refund = paid + dt.timedelta(days=2) if status == "cancelled" and rng.random() < 0.7 else None
        if refund is not None and refund > as_of:
            refund = None
        method = rng.choices(("card", "transfer", "cash"), (70, 18, 12))[0]
        into.payments.append((len(into.payments) + 1, booking, paid, Decimal(part) / 100, method, refund))
