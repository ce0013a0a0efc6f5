"""What stands still: harbours, berths, vessels, routes and the price list."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator

Row = tuple[object, ...]

# id, name, code, island, latitude, longitude, has_ramp
HARBOURS: tuple[Row, ...] = (
    (1, "Quillhaven", "QH", "Marrow", 52.104, -31.220, True),
    (2, "Dunmarrow", "DM", "Marrow", 52.231, -31.348, True),
    (3, "Pell Point", "PP", "Pell", 52.402, -31.611, False),
    (4, "Saltreach", "SR", "Reach", 51.988, -31.702, True),
    (5, "Carrow Ness", "CN", "Carrow", 52.317, -31.904, True),
    (6, "Wick Ember", "WE", "Ember", 51.874, -31.413, True),
    (7, "Gullspire", "GS", "Spire", 52.511, -31.287, False),
    (8, "Oarsby", "OB", "Reach", 51.941, -31.655, True),
)

# id, code, name, built_year, length_m, passenger_capacity, car_capacity, status
VESSELS: tuple[Row, ...] = (
    (1, "BW", "Brightwater", 2014, 78.4, 340, 62, "active"),
    (2, "TR", "Tern's Reach", 2009, 64.0, 260, 41, "active"),
    (3, "MT", "Morrow Tide", 2018, 81.2, 380, 70, "active"),
    (4, "SG", "Slate Gannet", 2003, 58.7, 210, 34, "active"),
    (5, "AU", "Aurelie", 2021, 42.5, 150, 0, "active"),
    (6, "OP", "Old Petrel", 1987, 51.3, 180, 22, "retired"),
)
RETIRED_VESSEL, RETIRED_ON = 6, dt.date(2026, 3, 1)

# id, code, from, to, distance_nm, active; only PP-QH touches Pell Point
ROUTES: tuple[Row, ...] = (
    (1, "QH-DM", 1, 2, 9.4, True),
    (2, "QH-PP", 1, 3, 21.8, True),
    (3, "QH-SR", 1, 4, 19.1, True),
    (4, "QH-CN", 1, 5, 27.6, True),
    (5, "QH-WE", 1, 6, 15.3, True),
    (6, "QH-GS", 1, 7, 24.9, True),
    (7, "SR-OB", 4, 8, 3.6, True),
    (8, "DM-GS", 2, 7, 17.2, True),
    (9, "WE-OB", 6, 8, 10.5, True),
    (10, "CN-DM", 5, 2, 21.0, True),
    (11, "SR-CN", 4, 5, 20.7, False),
)


def berths() -> Iterator[Row]:
    """id, harbour_id, label, max_length_m."""
    number = 0
    for harbour in HARBOURS:
        for index in range(3 if harbour[0] == 1 else 2):
            number += 1
            yield (number, harbour[0], f"{harbour[2]}{index + 1}", 95.0 - 18.5 * index)


def fares() -> Iterator[Row]:
    """id, route_id, fare_class, season, amount_cents, valid_from, valid_to; in whole tens."""
    number = 0
    for route in ROUTES:
        for year in (2025, 2026):
            for season, uplift in (("low", 1.0), ("high", 1.3)):
                for fare_class, factor in (("adult", 1.0), ("child", 0.5), ("car", 2.8), ("bicycle", 0.4)):
                    number += 1
                    base = (350 + 45 * float(route[4])) * (1.04 if year == 2026 else 1.0)  # type: ignore[arg-type]
                    cents = round(base * uplift * factor / 10) * 10
                    yield (
                        number, route[0], fare_class, season, cents,
                        dt.date(year, 1, 1), dt.date(year, 12, 31),
                    )  # fmt: skip
