"""What a reading comes to, worked out row by row in plain Python: no SQL, and nothing of what builds controls.

Ships that belong to a harbour or to none, trips of ships, and what was carried on them. A comparison with nothing is
neither true nor false, until a `not` turns it around: what is empty is then not equal to anything.
"""

from __future__ import annotations

import datetime as dt
import random
from collections.abc import Callable, Iterable
from typing import Any

from harquel.core.domain.notes import Notes

Row = dict[str, Any]
NOTES = Notes.model_validate({"tables": {
    "trip": {"when": "left_at", "columns": {"status": {"codes": {"S": "planned", "D": "done", "X": "cancelled"}}}},
    "cargo": {"when": "loaded_at"},
}})  # fmt: skip
MEANT = {"cancelled": "X"}
KEYS = {"harbour": {}, "ship": {"harbour_id": "harbour"}, "trip": {"ship_id": "ship"}, "cargo": {"trip_id": "trip"}}
COLUMNS = {
    "harbour": ["id", "name"], "ship": ["id", "name", "harbour_id", "built"],
    "trip": ["id", "ship_id", "left_at", "back_at", "status", "fare", "places"],
    "cargo": ["id", "trip_id", "kind", "tons", "loaded_at"],
}  # fmt: skip
DATED = {"trip": "left_at", "cargo": "loaded_at"}
_STRUCTURE = """
CREATE TABLE harbour (id INTEGER PRIMARY KEY, name VARCHAR(20) NOT NULL);
CREATE TABLE ship (id INTEGER PRIMARY KEY, name VARCHAR(20) NOT NULL, harbour_id INTEGER, built INTEGER,
    FOREIGN KEY (harbour_id) REFERENCES harbour (id));
CREATE TABLE trip (id INTEGER PRIMARY KEY, ship_id INTEGER, left_at TIMESTAMP NULL, back_at TIMESTAMP NULL,
    status VARCHAR(1) NOT NULL, fare INTEGER, places INTEGER NOT NULL, FOREIGN KEY (ship_id) REFERENCES ship (id));
CREATE TABLE cargo (id INTEGER PRIMARY KEY, trip_id INTEGER NOT NULL, kind VARCHAR(9), tons INTEGER,
    loaded_at TIMESTAMP NULL, FOREIGN KEY (trip_id) REFERENCES trip (id));
"""


class Interpreted:
    """The tables, and what readings of them come to."""

    def __init__(self, seed: int) -> None:
        chance = random.Random(seed)

        def at(days: int) -> str:
            moment = dt.datetime(2026, 1, 1) + dt.timedelta(days=days, hours=chance.choice([0, 7, 7, 15]))
            return moment.strftime("%Y-%m-%d %H:%M:%S")

        def sometimes(value: Any, often: float = 0.8) -> Any:
            return value if chance.random() < often else None

        self.tables: dict[str, list[Row]] = {"harbour": [{"id": n, "name": f"Harbour {n}"} for n in (1, 2, 3)]}
        self.tables["ship"] = [
            {"id": n, "name": f"Ship {n % 5}", "harbour_id": sometimes(chance.randint(1, 3)),
             "built": sometimes(chance.choice([1999, 2004]))} for n in range(1, 8)
        ]  # fmt: skip
        self.tables["trip"] = []
        for n in range(1, 41):
            day = chance.randint(0, 70)
            self.tables["trip"].append({
                "id": n, "ship_id": sometimes(chance.randint(1, 6), 0.9), "left_at": sometimes(at(day), 0.9),
                "back_at": sometimes(at(day + chance.randint(1, 4))), "status": chance.choice("SDDX"),
                "fare": sometimes(chance.randint(1, 6) * 10), "places": chance.randint(1, 4),
            })  # fmt: skip
        self.tables["cargo"] = [
            {"id": n, "trip_id": chance.randint(1, 30), "kind": sometimes(chance.choice(["coal", "corn"])),
             "tons": sometimes(chance.randint(1, 9)), "loaded_at": sometimes(at(chance.randint(0, 70)), 0.9)}
            for n in range(1, 61)
        ]  # fmt: skip
        self._by_id = {t: {row["id"]: row for row in rows} for t, rows in self.tables.items()}

    def written(self) -> list[str]:
        """The same as statements that make a database of it, in every dialect."""
        found = [statement.strip() for statement in _STRUCTURE.split(";") if statement.strip()]
        for table, rows in self.tables.items():
            lines = [", ".join("NULL" if v is None else repr(v) for v in row.values()) for row in rows]
            found.append(f"INSERT INTO {table} VALUES ({'), ('.join(lines)})")
        return found

    def rows(self, reading: Row) -> list[tuple[Any, ...]]:
        """What a reading comes to."""
        table = reading["rows"]
        found = [row for row in self.tables[table] if self._counts(row, table, reading)]
        if (each := reading.get("each")) is not None and reading.get("figures"):
            found = self._first(found, each, lambda row, name: self.value(row, table, name))
        if reading.get("figures"):
            return self._grouped(found, table, reading)
        shown = [tuple(self._shown(row, table, one) for one in reading["show"]) for row in found]
        if each is not None:
            first = self._first(found, each, lambda row, name: self.value(row, table, name))
            shown = [tuple(self._shown(row, table, one) for one in reading["show"]) for row in first]
        if reading.get("both"):
            shown = self._ends(shown, 0, reading["top"])
        return shown

    # -- values --------------------------------------------------------------------------------------

    def value(self, row: Row | None, table: str, name: str) -> Any:
        """A column of a row, or of the row that its keys lead to; nothing where they lead nowhere."""
        owner, _, column = name.rpartition(".")
        while owner and owner != table and row is not None:
            key, table = next(iter(KEYS[table].items()))
            row = self._by_id[table].get(row[key])
        return row[column] if row is not None else None

    def _shown(self, row: Row, table: str, one: Any) -> Any:
        return self.value(row, table, one) if isinstance(one, str) else self._worth(row, table, one)

    def _worth(self, row: Row, table: str, worth: Row) -> Any:
        if "since" in worth:
            later, earlier = self.value(row, table, worth["of"]), self.value(row, table, worth["since"])
            return _days(later, earlier) if later is not None and earlier is not None else None
        value, less = (self._term(row, table, worth.get(name)) for name in ("of", "less"))
        if "less" not in worth:
            return value
        return value - less if value is not None and less is not None else None

    def _term(self, row: Row, table: str, term: Any) -> Any:
        if not isinstance(term, dict):
            return self.value(row, table, term) if term else None
        held = [r for r in self._pointing(row, table, term["rows"]) if self._counts(r, term["rows"], term)]
        if term.get("figure", "count") == "count":
            return len(held)
        values = [v for r in held if (v := self.value(r, term["rows"], term["of"])) is not None]
        return sum(values) if term["figure"] == "sum" else max(values, default=None)

    def _pointing(self, row: Row, table: str, other: str) -> list[Row]:
        def leads_here(r: Row) -> bool:
            return self.value(r, other, f"{table}.id") == row["id"]

        return [r for r in self.tables[other] if leads_here(r)]

    # -- conditions ----------------------------------------------------------------------------------

    def _counts(self, row: Row, table: str, reading: Row) -> bool:
        tests = [self._meets(row, table, one) for one in reading.get("only", ())]
        return all(test is True for test in tests) and self._within(row, table, reading.get("during", ()))

    def _within(self, row: Row, table: str, times: Iterable[Row]) -> bool:
        for time in times:
            at = self.value(row, table, time.get("column") or DATED[table])
            if at is None or at < time.get("from", "") or at >= time.get("until", "9999"):
                return False
        return True

    def _meets(self, row: Row, table: str, given: Row) -> bool | None:
        if "any" in given:
            found = _any([self._meets(row, table, one) for one in given["any"]])
            found = bool(found) if given.get("not") else found
        elif "has" in given:
            found = self._has(row, table, given)
        elif "worth" in given:
            found = _compare(given.get("is", "equal"), self._worth(row, table, given["worth"]), given["values"])
        else:
            value = self.value(row, table, given["column"])
            if given.get("is") == "empty":
                found = value is None
            else:
                meant = [MEANT.get(v, v) if given["column"].endswith("status") else v for v in given["values"]]
                found = _compare(given.get("is", "equal"), value, meant)
                # What is empty is not equal to anything, and so belongs to what is not.
                found = bool(found) if given.get("not") else found
        return not found if given.get("not") and found is not None else found

    def _has(self, row: Row, table: str, given: Row) -> bool | None:
        other = given["has"]
        if (unit := given.get("same")) is not None:
            here = _unit(row[DATED[table]], unit)
            held = {_unit(r[DATED[other]], unit) for r in self.tables[other] if self._counts(r, other, given)}
            return here in held - {None} if here is not None else None
        held_here = [r for r in self._pointing(row, table, other) if self._counts(r, other, given)]
        count = len(held_here)
        if "different" in given:
            count = len({self.value(r, other, given["different"]) for r in held_here} - {None})
        return given.get("at_least", 1 if "at_most" not in given else 0) <= count <= given.get("at_most", 10**9)

    # -- groups --------------------------------------------------------------------------------------

    def _grouped(self, found: list[Row], table: str, reading: Row) -> list[tuple[Any, ...]]:
        per, groups = reading.get("per", ()), dict[tuple[Any, ...], list[Row]]()
        if not per:
            groups[()] = []
        for row in found:
            if all(one.get("empty") or self._leads(row, table, one["column"]) for one in per):
                told = tuple(_unit(self.value(row, table, one["column"]), one.get("unit")) for one in per)
                groups.setdefault(told, []).append(row)
        made = [(*told, *self._figures(rows, table, reading["figures"])) for told, rows in groups.items()]
        for kept in reading.get("keep", ()):
            made = _kept(made, len(per) + kept["figure"], kept)
        if reading.get("tally"):
            return [(len(made),)]
        if (across := reading.get("across")) is not None:
            values = [group[len(per) + across["of"]] for group in made]
            return [(_figure(across["figure"], [v for v in values if v is not None]),)]
        return self._ends(made, len(per) + reading["order"][0]["by"], reading["top"]) if reading.get("both") else made

    def _leads(self, row: Row, table: str, name: str) -> bool:
        owner = name.rpartition(".")[0]
        return not owner or owner == table or self.value(row, table, f"{owner}.id") is not None

    def _figures(self, rows: list[Row], table: str, figures: list[Row]) -> list[Any]:
        made: list[Any] = []
        for figure in figures:
            if "between" in figure:
                one, other = (made[n] for n in figure["between"])
                made.append(one - other if one is not None and other is not None else None)
                continue
            held = [row for row in rows if self._counts(row, table, figure)]
            kind = figure["figure"]
            if kind in ("count", "share"):
                made.append(len(held) if kind == "count" else 100.0 * len(held) / len(rows) if rows else None)
                continue
            values = [v for row in held if (v := self._worth(row, table, figure)) is not None]
            made.append(_figure(kind, values))
        return made

    def _first(self, rows: list[Row], each: Row, value: Callable[[Row, str], Any]) -> list[Row]:
        """Those that come first of all that have the same; what is level is given, what has no value comes last."""
        found = []
        for row in rows:
            alike = [r for r in rows if _unit(value(r, each["per"]), each.get("unit"))
                     == _unit(value(row, each["per"]), each.get("unit"))]  # fmt: skip
            before = [r for r in alike if _before(value(r, each["by"]), value(row, each["by"]), each["descending"])]
            found += [row] if len(before) < each.get("top", 1) else []
        return found

    def _ends(self, rows: list[tuple[Any, ...]], at: int, top: int) -> list[tuple[Any, ...]]:
        return [
            row for row in rows
            if any(sum(_before(r[at], row[at], turned) for r in rows) < top for turned in (False, True))
        ]  # fmt: skip


def _any(tests: list[bool | None]) -> bool | None:
    return True if True in tests else None if None in tests else False


def _before(one: Any, other: Any, descending: bool) -> bool:
    if one is None or other is None:
        return one is not None and other is None
    return bool(one > other) if descending else bool(one < other)


def _compare(how: str, value: Any, values: list[Any]) -> bool | None:
    if value is None:
        return None
    first = values[0]
    if how in ("equal", "in"):
        return bool(value in (values if how == "in" else [first]))
    if how in ("less", "at most"):
        return bool(value < first or (how == "at most" and value == first))
    return bool(value > first or (how == "at least" and value == first))


def _kept(made: list[tuple[Any, ...]], at: int, kept: Row) -> list[tuple[Any, ...]]:
    """The groups whose figure is as it is wanted: held against a value, or against the average of them."""
    values = [group[at] for group in made if group[at] is not None]
    bound = kept["value"] if "value" in kept else sum(values) / len(values) if values else None
    return [g for g in made if bound is not None and _compare(kept["is"], g[at], [bound])]


def _figure(kind: str, values: list[Any]) -> Any:
    if kind == "distinct":
        return len(set(values))
    if not values:
        return None
    made = {"sum": sum, "minimum": min, "maximum": max, "average": lambda v: sum(v) / len(v)}[kind]
    return made(values)  # type: ignore[operator]


def _days(later: str, earlier: str) -> float:
    passed = dt.datetime.fromisoformat(later) - dt.datetime.fromisoformat(earlier)
    return passed / dt.timedelta(days=1)


def _unit(value: Any, unit: str | None) -> Any:
    if unit is None or value is None:
        return value
    at = dt.datetime.fromisoformat(value)
    return {"day": value[:10], "month": value[:7], "year": value[:4], "hour": at.hour, "weekday": at.isoweekday() % 7}[
        unit
    ]
