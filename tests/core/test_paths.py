"""Ways along keys: the only shortest one, by name where there are several, never to many, and never for ever."""

from __future__ import annotations

import datetime as dt

import pytest

from harquel.core.domain.catalog import Catalog, Column, ForeignKey, Table
from harquel.core.reading.paths import FURTHEST, NoControl, pointing, table_named, way_to


def table(name: str, *keys: tuple[str, str], loose: tuple[str, ...] = ()) -> Table:
    """`keys` are (column, table that it points at); those in `loose` may be empty."""
    columns = [Column("id", "INTEGER", False, primary_key=True, unique=True), Column("name", "TEXT", True)]
    columns += [Column(column, "INTEGER", column in loose) for column, _ in keys]
    return Table(name, "table", tuple(columns), foreign_keys=tuple(ForeignKey((c,), t, ("id",)) for c, t in keys))


def catalog(*tables: Table) -> Catalog:
    return Catalog("sqlite", tables, "f", dt.datetime(2026, 9, 14, tzinfo=dt.UTC), "main", 1)


FLEET = catalog(
    table("harbour"), table("vessel", ("home_id", "harbour"), loose=("home_id",)),
    table("route", ("from_id", "harbour"), ("to_id", "harbour")),
    table("sailing", ("vessel_id", "vessel"), ("route_id", "route")),
    table("booking", ("sailing_id", "sailing")), table("crew", ("chief_id", "crew"), loose=("chief_id",)),
)  # fmt: skip


def steps(name: str, base: str, of: Catalog = FLEET) -> list[str]:
    way = way_to(name, table_named(base, of), of)
    return [*(f"{s.table.name}.{s.key.columns[0]}" for s in way.steps), f"{way.table.name}.{way.column.name}"]


@pytest.mark.parametrize(("name", "base", "found"), [
    ("name", "vessel", ["vessel.name"]), ("vessel.name", "vessel", ["vessel.name"]), ("VESSEL.NAME", "booking",
     ["booking.sailing_id", "sailing.vessel_id", "vessel.name"]),
    ("route_id>to_id>harbour.name", "sailing", ["sailing.route_id", "route.to_id", "harbour.name"]),
    ("chief_id>crew.name", "crew", ["crew.chief_id", "crew.name"]),
    ("chief_id > chief_id > crew.name", "crew", ["crew.chief_id", "crew.chief_id", "crew.name"]),
])  # fmt: skip
def test_the_way_is_found_or_as_it_is_named(name: str, base: str, found: list[str]) -> None:
    assert steps(name, base) == found


@pytest.mark.parametrize(("name", "base", "said"), [
    ("harbour.name", "route", r"Several keys lead from route to harbour: name one of them \(from_id or to_id\)"),
    ("booking.name", "sailing", "No keys lead from sailing to booking, one row to one"),
    ("vessel.nam", "vessel", 'vessel has no column "nam". Nearest: name'),
    ("vesel.name", "booking", 'There is no table "vesel". Nearest: vessel'),
    ("sailor_id>crew.name", "booking", 'booking has no key "sailor_id"'),
    ("sailing_id>vessel.name", "booking", "sailing_id leads from booking to sailing, not to vessel"),
    (">".join(["chief_id"] * (FURTHEST + 1)) + ">crew.name", "crew", "7 keys in a row are more than 6"),
])  # fmt: skip
def test_what_leads_nowhere_or_anywhere_is_said(name: str, base: str, said: str) -> None:
    with pytest.raises(NoControl, match=said):
        way_to(name, table_named(base, FLEET), FLEET)


def test_a_shorter_way_is_the_way_and_two_as_short_are_none() -> None:
    near = catalog(*FLEET.tables[:-2], table("booking", ("sailing_id", "sailing"), ("vessel_id", "vessel")))
    assert steps("vessel.name", "booking", near) == ["booking.vessel_id", "vessel.name"]
    # To the harbour of the vessel it is two keys now, to those of the route three.
    assert steps("harbour.name", "booking", near) == ["booking.vessel_id", "vessel.home_id", "harbour.name"]
    with pytest.raises(NoControl, match="Several keys lead"):
        steps("harbour.name", "booking", catalog(*near.tables[:-1], table("booking", ("a", "route"), ("b", "vessel"))))


def test_a_key_that_may_be_empty_is_loose() -> None:
    way = way_to("vessel_id>home_id>harbour.name", table_named("sailing", FLEET), FLEET)
    assert [step.loose for step in way.steps] == [False, True]


def test_a_ring_of_keys_ends() -> None:
    ring = catalog(*(table(f"t{n}", ("next_id", f"t{(n + 1) % 40}")) for n in range(40)), table("apart"))
    assert len(steps(f"t{FURTHEST}.name", "t0", ring)) == FURTHEST + 1
    for far in (f"t{FURTHEST + 2}.name", "apart.name"):
        with pytest.raises(NoControl, match="No keys lead"):
            steps(far, "t0", ring)


def test_who_points_here_and_by_which_key() -> None:
    harbour, route, booking, vessel = (table_named(n, FLEET) for n in ("harbour", "route", "booking", "vessel"))
    assert [s.key.columns[0] for s in pointing(booking, vessel, None, FLEET)] == ["sailing_id", "vessel_id"]
    assert [s.key.columns[0] for s in pointing(route, harbour, "to_id", FLEET)] == ["to_id"]
    with pytest.raises(NoControl, match="Several keys lead"):
        pointing(route, harbour, None, FLEET)
    for inner, outer, key in ((harbour, harbour, None), (booking, vessel, "sailing_id")):
        with pytest.raises(NoControl, match=f"{inner.name} does not point at {outer.name}"):
            pointing(inner, outer, key, FLEET)
