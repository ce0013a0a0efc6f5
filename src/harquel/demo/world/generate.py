"""Puts the world together: table name to rows, in load order, the same on every run."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator

from . import places, trade, traffic, upkeep, weather
from .places import Row

AS_OF = dt.datetime(2026, 9, 14, 10, 0)
START, END = dt.date(2025, 1, 1), dt.date(2026, 9, 30)
ARCHIVE_START, ARCHIVE_END = dt.date(2023, 1, 1), dt.date(2024, 12, 31)


class World:
    """The rows of every table. `scale` multiplies customers, bookings and what hangs on them."""

    def __init__(self, scale: float = 1.0, seed: str = "marrowick") -> None:
        if not 0 < scale <= 250:
            raise ValueError("scale must be above 0 and at most 250")
        self.scale, self.seed = scale, seed

    def tables(self) -> Iterator[tuple[str, Iterator[Row]]]:
        """(table, rows) in an order that respects foreign keys; each iterator is to be used up."""
        seed = self.seed
        yield "harbour", iter(places.HARBOURS)
        yield "berth", places.berths()
        yield "vessel", iter(places.VESSELS)
        yield "route", iter(places.ROUTES)
        wind = weather.daily_wind(seed, START, END)
        made = list(traffic.sailings(seed, START, END, AS_OF, wind))
        yield "sailing", (s.row() for s in made)
        old_wind = weather.daily_wind(seed + ":archive", ARCHIVE_START, ARCHIVE_END)
        archive = traffic.sailings(seed, ARCHIVE_START, ARCHIVE_END, AS_OF, old_wind)
        yield "sailing_archive", (s.row() for s in archive)
        yield "fare", places.fares()
        sold = trade.trade(seed, made, self.scale, AS_OF)
        yield "customer", iter(sold.customers)
        yield "booking", iter(sold.bookings)
        yield "booking_item", iter(sold.items)
        yield "payment", iter(sold.payments)
        yield "incident", traffic.incidents(seed, made)
        yield "weather_reading", weather.readings(seed, wind, AS_OF)
        yield "crew_member", traffic.crew(seed)
        yield "crew_shift", traffic.shifts(seed, made)
        yield "fuel_log", upkeep.fuel(seed, START, AS_OF)
        yield "maintenance_order", upkeep.maintenance(seed, START, AS_OF)
