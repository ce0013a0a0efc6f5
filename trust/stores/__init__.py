"""A second schema for the measure of trust, which no rule was written with: the stores of the ferry service."""

from __future__ import annotations

import datetime as dt
import random
import sqlite3
from pathlib import Path

FOLDER = Path(__file__).parent
_ISLANDS = ("Marrow", "Carrow", "Oar", "Gull")
_SUPPLIERS = ("Brackwater Supplies", "Halyard & Sons", "Tidewell Marine", "Cobble Forge", "Lantern Works", "Stillmark")
_DEPOTS = (("North Shed", "Quillhaven", 420.0), ("Rope Loft", "Dunmarrow", 180.0), ("Slipway Store", "Oarsby", 95.5))
_PARTS = (
    "fuel filter", "oil filter", "mooring rope", "life jacket", "bilge pump", "pump seal", "hatch gasket", "ramp chain",
    "ramp hinge", "deck paint", "hull paint", "radio battery", "signal lamp", "door latch", "window pane",
)  # fmt: skip
_CATEGORIES = ("engine", "engine", "deck", "safety", "engine", "engine", "deck", "deck", "deck", "paint", "paint",
               "electrical", "electrical", "cabin", "cabin")  # fmt: skip
_SHIPS = ("Brightwater", "Morrow Tide", "Slate Gannet", "Aurelie")


def load(path: Path) -> None:
    """Makes the database, always the same."""
    chance = random.Random(7)
    with sqlite3.connect(path) as db:
        db.executescript((FOLDER / "schema.sql").read_text("utf-8"))
        for n, name in enumerate(_SUPPLIERS, 1):
            since = f"{2012 + n}-0{n}-15"
            db.execute(
                "INSERT INTO supplier VALUES (?,?,?,?,?,?)", (n, name, _ISLANDS[n % 4], 1 + n % 5, n == 4, since)
            )
        db.executemany("INSERT INTO depot (name, harbour, capacity_m3) VALUES (?,?,?)", _DEPOTS)
        row: tuple[object, ...]
        for n, (name, category) in enumerate(zip(_PARTS, _CATEGORIES, strict=True), 1):
            weight = None if n % 6 == 0 else round(chance.uniform(0.2, 40), 1)
            row = (n, f"P-{100 + n}", name, category, chance.randrange(300, 90_000), weight, 5 + n % 7, n in (8, 15))
            db.execute("INSERT INTO part VALUES (?,?,?,?,?,?,?,?)", row)
            for depot in (1, 2, 3):
                if (n + depot) % 5:
                    counted = f"2026-0{1 + (n + depot) % 8}-1{n % 10}"
                    db.execute("INSERT INTO stock VALUES (?,?,?,?)", (n, depot, chance.randrange(0, 40), counted))
        for n in range(1, 10):
            deputy = None if n % 3 == 1 else n - 1
            ended = f"2025-0{n}-30" if n in (3, 6) else None
            row = (n, 1 + n % 3, f"SK{n:02}", deputy, f"20{15 + n}-03-01", ended)
            db.execute("INSERT INTO storekeeper VALUES (?,?,?,?,?,?)", row)
        line = 0
        for n in range(1, 601):
            ordered = dt.date(2024, 11, 1) + dt.timedelta(days=n * 670 // 600)
            state = chance.choices((1, 2, 3, 4), (1 if ordered < dt.date(2026, 7, 1) else 6, 14, 1, 1))[0]
            promised = ordered + dt.timedelta(days=chance.randrange(5, 25))
            late = promised + dt.timedelta(days=chance.randrange(-4, 12))
            row = (n, 1 + chance.randrange(6), 1 + chance.randrange(3), str(ordered), str(promised),
                   str(late) if state in (2, 3) else None, state, chance.randrange(0, 9000))  # fmt: skip
            db.execute("INSERT INTO purchase VALUES (?,?,?,?,?,?,?,?)", row)
            for part in chance.sample(range(1, 16), chance.randrange(1, 5)):
                line += 1
                row = (line, n, part, chance.randrange(1, 30), chance.randrange(250, 95_000))
                db.execute("INSERT INTO purchase_line VALUES (?,?,?,?,?)", row)
        for table, first, days, count in (("withdrawal", dt.datetime(2025, 1, 1), 620, 4000),
                                          ("withdrawal_2024", dt.datetime(2024, 1, 1), 360, 1500)):  # fmt: skip
            for n in range(1, count + 1):
                taken = first + dt.timedelta(minutes=n * days * 1440 // count + chance.randrange(300))
                keeper = None if chance.random() < 0.1 else 1 + chance.randrange(9)
                row = (n, 1 + chance.randrange(15), 1 + chance.randrange(3), keeper, chance.choice(_SHIPS),
                       taken.strftime("%Y-%m-%d %H:%M:%S"), chance.randrange(1, 9), chance.random() < 0.15)  # fmt: skip
                db.execute(f"INSERT INTO {table} VALUES (?,?,?,?,?,?,?,?)", row)
    db.close()
