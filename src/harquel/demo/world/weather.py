"""Wind, waves and sight: seasonal, stormy now and then, with gaps where an instrument was down."""

from __future__ import annotations

import datetime as dt
import math
import random
from collections.abc import Iterator

from .places import HARBOURS, Row

EXPOSURE = {1: 0.85, 2: 0.95, 3: 1.15, 4: 0.9, 5: 1.2, 6: 1.0, 7: 1.3, 8: 0.92}


def daily_wind(seed: str, start: dt.date, end: dt.date) -> dict[dt.date, float]:
    """Mean wind in knots over the islands for each day from start up to and including end."""
    rng = random.Random(f"{seed}:wind")
    level, days, wind = 0.0, (end - start).days + 1, {}
    for offset in range(days):
        day = start + dt.timedelta(days=offset)
        season = 13 + 5 * math.cos((day.timetuple().tm_yday - 15) / 365 * 2 * math.pi)
        level = 0.6 * level + rng.gauss(0, 3.4)
        storm = rng.uniform(8, 22) if rng.random() < 0.03 else 0
        wind[day] = max(1.5, season + level + storm + (1.1 if day.year == 2026 else 0))
    return wind


def readings(seed: str, wind: dict[dt.date, float], until: dt.datetime) -> Iterator[Row]:
    """id, harbour_id, measured_at, wind_kn, gust_kn, wave_m, visibility_km, up to `until`."""
    rng = random.Random(f"{seed}:readings")
    number = 0
    for day, mean in wind.items():
        for harbour in HARBOURS:
            place = int(harbour[0])  # type: ignore[call-overload]
            if rng.random() < 0.006:
                continue
            for hour in range(0, 24, 3):
                at = dt.datetime(day.year, day.month, day.day, hour)
                if at > until or rng.random() < 0.004:
                    continue
                number += 1
                knots = max(0.0, mean * EXPOSURE[place] + rng.gauss(0, 2) + (1.5 if 9 <= hour <= 18 else 0))
                gust = knots * rng.uniform(1.2, 1.6)
                yield (
                    number, place, at, round(knots, 1), round(gust, 1),
                    round(max(0.1, knots * 0.075 + rng.gauss(0, 0.15)), 1),
                    round(max(0.2, rng.gauss(18, 6)), 1),
                )  # fmt: skip
