"""Controls give what their readings say, worked out a second time by code that knows no SQL (see `interpreted`)."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from harquel.core.reading import Reading, control
from harquel.testing.sources import NOW, scanned
from tests.core.interpreted import COLUMNS, DATED, NOTES, Interpreted

REACHED = {"harbour": ["harbour"], "ship": ["ship", "harbour"], "trip": ["trip", "ship", "harbour"],
           "cargo": ["cargo", "trip", "ship"]}  # fmt: skip
POINTING = {"ship": "trip", "trip": "cargo", "harbour": "ship"}
NUMBERS = {"id", "built", "fare", "places", "tons", "ship_id", "trip_id", "harbour_id"}
TIMES = ["2026-01-08", "2026-01-20 07:00:00", "2026-02-01", "2026-03-01"]


class Held:
    """The tables in both forms."""

    def __init__(self, world: Interpreted, path: Path) -> None:
        self.world, self.catalog, self.database = world, scanned(path), sqlite3.connect(path)


@pytest.fixture(scope="module")
def held(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Held]:
    world = Interpreted(seed=11)
    path = world.written(tmp_path_factory.mktemp("interpreted") / "ships.db")
    found = Held(world, path)
    yield found
    found.database.close()


@st.composite
def readings(draw: st.DrawFn) -> dict[str, Any]:
    def one_of(*found: Any) -> Any:
        return draw(st.sampled_from(found))

    def of(table: str, numbers: bool = False) -> str:
        there = one_of(*REACHED[table])
        named = [c for c in COLUMNS[there] if not numbers or c in NUMBERS]
        return f"{there}.{one_of(*named)}"

    def during(table: str) -> list[dict[str, Any]]:
        ends = sorted(draw(st.lists(st.sampled_from(TIMES), min_size=2, max_size=2, unique=True)))
        time = {"from": ends[0], "until": ends[1]}
        return [one_of(time, {"from": ends[0]}, {"until": ends[1]})] if table in DATED and draw(st.booleans()) else []

    def condition(table: str, depth: int = 0) -> dict[str, Any]:
        number = of(table, numbers=True)
        plain = {"column": number, "is": one_of("equal", "less", "at least", "more", "at most"),
                 "values": [one_of(1, 2, 3, 5, 20, 40, 2004)]}  # fmt: skip
        empty = {"column": of(table), "is": "empty"}
        kinds = [plain, {**plain, "is": "in", "values": [1, 2, 30, 1999]}, empty, {"any": [plain, empty]}]
        if table == "trip":
            kinds.append({"column": "status", "values": [one_of("cancelled", "D")]})
            kinds.append({"worth": {"of": "back_at", "since": "left_at"}, "is": "at least", "values": [2]})
        if depth == 0 and table in POINTING:
            other = POINTING[table]
            inner = {"has": other, "only": [condition(other, 1)] * one_of(0, 1), "during": during(other)}
            bounds = one_of({}, {"at_least": 2}, {"at_most": 1}, {"at_least": 2, "different": f"{other}.id"},
                            {"at_most": 1, "different": f"{other}.{one_of(*COLUMNS[other])}"})  # fmt: skip
            kinds.append(inner | bounds)
            worth = {"of": {"rows": other, "figure": "sum", "of": f"{other}.id", "only": [condition(other, 1)]}}
            kinds.append({"worth": worth, "is": "at least", "values": [one_of(1, 10)]})
        if depth == 0 and table in DATED:
            other = one_of(*DATED)
            kinds.append({"has": other, "same": one_of("day", "hour", "month", "weekday"),
                          "only": [condition(other, 1)], "during": during(other)})  # fmt: skip
        return one_of(*kinds) | ({"not": True} if draw(st.booleans()) else {})

    rows = one_of(*COLUMNS)
    made: dict[str, Any] = {"rows": rows, "only": [condition(rows) for _ in range(one_of(0, 1, 1, 2))],
                            "during": during(rows)}  # fmt: skip
    first = {"per": of(rows), "by": f"{rows}.id", "descending": draw(st.booleans()), "top": one_of(1, 2)}
    if rows in DATED and draw(st.booleans()):
        first |= {"per": DATED[rows], "unit": one_of("day", "month", "weekday")}
    if draw(st.integers(0, 3)) == 0:
        worths = [{"of": "places", "less": {"rows": "cargo"}}, {"of": "back_at", "since": "left_at"}]
        made["show"] = [f"{rows}.id", of(rows), *(worths if rows == "trip" else [])]
        made |= one_of({}, {"order": [{"by": f"{rows}.id"}], "top": 2, "both": True}, {"each": first})
        return made
    made["figures"] = [
        {"figure": "count"}, {"figure": "count", "only": [condition(rows)], "during": during(rows)},
        {"figure": "distinct", "of": of(rows)}, {"figure": "sum", "of": of(rows, numbers=True)},
        {"figure": one_of("average", "minimum", "maximum"), "of": of(rows, numbers=True), "only": [condition(rows)]},
        {"figure": "share", "only": [condition(rows)]}, {"figure": "difference", "between": [0, 1]},
    ]  # fmt: skip
    kept = [{"figure": one_of(0, 2), "is": one_of("more", "at most"), **one_of({"value": 2}, {})}]
    made |= one_of({}, {"each": first})
    if draw(st.booleans()):
        per = [{"column": of(rows), "empty": draw(st.booleans())}]
        if rows in DATED and draw(st.booleans()):
            per.append({"column": f"{rows}.{DATED[rows]}", "unit": one_of("day", "month", "year", "hour", "weekday")})
        if f"{rows}.id" in {p["column"] for p in per}:
            made.pop("each", None)
        made["per"] = per
        made |= one_of({}, {"keep": kept}, {"keep": kept, "tally": True}, {"across": {"figure": "average", "of": 0}},
                       {"order": [{"by": 0}], "top": 1, "both": True})  # fmt: skip
    return made


def _alike(rows: Any) -> Counter[tuple[Any, ...]]:
    return Counter(tuple(f"{v:.9g}" if isinstance(v, int | float) else v for v in row) for row in rows)


@settings(max_examples=300, deadline=None, suppress_health_check=list(HealthCheck))
@given(reading=readings())
def test_a_control_gives_what_its_reading_says(reading: dict[str, Any], held: Held) -> None:
    sql = control(Reading.model_validate(reading), held.catalog, NOTES, "sqlite", NOW)
    assert _alike(held.database.execute(sql)) == _alike(held.world.rows(reading)), sql
