"""Controls give what their readings say, worked out a second time by code that knows no SQL (see `interpreted`)."""

from __future__ import annotations

import datetime as dt
import sqlite3
from collections import Counter
from collections.abc import Iterator
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from harquel.core.domain.policy import Policy
from harquel.core.engines import Engine, engine_for
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.reading import Reading, control
from harquel.core.scanning import CatalogKeeper, MemoryStore
from harquel.testing.sources import NOW
from tests.conftest import servers
from tests.core.interpreted import COLUMNS, DATED, NOTES, Interpreted

pytestmark = servers
REACHED = {"harbour": ["harbour"], "ship": ["ship", "harbour"], "trip": ["trip", "ship", "harbour"],
           "cargo": ["cargo", "trip", "ship"]}  # fmt: skip
POINTING = {"ship": "trip", "trip": "cargo", "harbour": "ship"}
NUMBERS = {"id", "built", "fare", "places", "tons", "ship_id", "trip_id", "harbour_id"}
TIMES = ["2026-01-08", "2026-01-20 07:00:00", "2026-02-01", "2026-03-01"]


class Held:
    """The tables in both forms."""

    def __init__(self, world: Interpreted, engine: Engine, connection: Any) -> None:
        self.world, self.engine, self.connection = world, engine, connection
        keeper = CatalogKeeper(engine, Policy, MemoryStore(), profile_s=30)
        self.catalog = keeper.current()

    def rows(self, sql: str) -> list[tuple[Any, ...]]:
        """What the database says."""
        cursor = self.connection.cursor()
        cursor.execute(sql)
        return list(cursor.fetchall())


@pytest.fixture(scope="module", params=["sqlite", "postgresql", "mariadb"])
def held(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Held]:
    world, folder = Interpreted(seed=11), tmp_path_factory.mktemp("interpreted")
    if request.param == "sqlite":
        connection: Any = sqlite3.connect(folder / "ships.db")
        connection.executescript(";".join(world.written()))
        engine: Engine = SqliteEngine(folder / "ships.db")
    else:
        server = request.getfixturevalue(request.param)
        server.run("CREATE DATABASE interpreted")
        server.run(*world.written(), database="interpreted")
        connection, engine = server.connect("interpreted"), engine_for(server.url("interpreted"), folder)
    yield Held(world, engine, connection)
    connection.close()
    engine.close()


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


def _told(value: Any) -> Any:
    """As every engine says it: a mean with the digits that all of them have, a time as a text."""
    if isinstance(value, dt.datetime):
        return value.isoformat(" ")
    if isinstance(value, int | float | Decimal):
        return f"{float(value):.4g}" if value % 1 else int(value)
    return value


def _alike(rows: Any) -> Counter[tuple[Any, ...]]:
    return Counter(tuple(map(_told, row)) for row in rows)


@settings(max_examples=50, deadline=None, suppress_health_check=list(HealthCheck))
@given(reading=readings())
def test_a_control_gives_what_its_reading_says(reading: dict[str, Any], held: Held) -> None:
    sql = control(Reading.model_validate(reading), held.catalog, NOTES, held.engine.name, NOW)
    assert _alike(held.rows(sql)) == _alike(held.world.rows(reading)), sql
