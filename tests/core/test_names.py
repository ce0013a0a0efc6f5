"""Resolving names: what a query reads, through every kind of scope."""

from __future__ import annotations

from pathlib import Path

import pytest

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.policy import Policy
from harquel.core.sql import NameFault, ParseFault, parse, render, resolve
from harquel.core.sql.names import closest
from harquel.core.sql.tree import aliases, identifier
from harquel.testing.sources import scanned


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    return scanned(ferries, Policy())


def faults(sql: str, catalog: Catalog) -> list[NameFault]:
    return resolve(parse(sql, "sqlite")[0], catalog).faults


READS = {
    "SELECT COUNT(*) FROM vessel": {"vessel": set()},
    "SELECT NAME FROM Vessel": {"vessel": {"name"}},
    "SELECT v.name FROM vessel v WHERE v.code = 'BW' ORDER BY v.built_year": {"vessel": {"name", "code", "built_year"}},
    "SELECT n FROM (SELECT name AS n FROM vessel) q": {"vessel": {"name"}},
    "WITH c(a, b) AS (SELECT id, name FROM harbour) SELECT b FROM c": {"harbour": {"id", "name"}},
    "WITH c AS (SELECT * FROM berth) SELECT label FROM c": {"berth": {"id", "harbour_id", "label", "max_length_m"}},
    "SELECT 1 FROM sailing s JOIN route r ON r.id = s.route_id": {"sailing": {"route_id"}, "route": {"id"}},
    "SELECT id FROM harbour WHERE id IN (SELECT harbour_id FROM berth WHERE label = name)": {
        "harbour": {"id", "name"},
        "berth": {"harbour_id", "label"},
    },
    "SELECT (SELECT MAX(b.label) FROM berth b WHERE b.harbour_id = h.id) FROM harbour h": {
        "harbour": {"id"},
        "berth": {"label", "harbour_id"},
    },
    "SELECT name FROM harbour UNION SELECT code FROM vessel": {"harbour": {"name"}, "vessel": {"code"}},
    "SELECT SUM(litres) OVER (PARTITION BY vessel_id ORDER BY logged_at) FROM fuel_log": {
        "fuel_log": {"litres", "vessel_id", "logged_at"}
    },
    "SELECT kind AS k FROM booking_item GROUP BY k HAVING COUNT(*) > 1 ORDER BY k": {"booking_item": {"kind"}},
    "SELECT a.id FROM booking a JOIN booking b USING (customer_id)": {"booking": {"id", "customer_id"}},
    "SELECT passengers FROM route_day": {"route_day": {"passengers"}},
}


@pytest.mark.parametrize("sql", READS)
def test_reads(sql: str, catalog: Catalog) -> None:
    found = resolve(parse(sql, "sqlite")[0], catalog)
    assert found.faults == []
    assert found.reads == READS[sql]


FAULTS = {
    "SELECT x.name FROM harbour": ("unknown-table", "x"),
    "SELECT harbour.name FROM harbour h": ("unknown-table", "harbour"),
    "SELECT label FROM harbour WHERE id IN (SELECT harbour_id FROM berth)": ("unknown-column", "label"),
    "WITH c AS (SELECT id FROM harbour) SELECT name FROM c": ("unknown-column", "name"),
    "SELECT id FROM harbour h JOIN berth b ON b.harbour_id = h.id": ("ambiguous-column", "id"),
    "SELECT h.id FROM harbour h JOIN vessel h ON 1 = 1": ("ambiguous-column", "h"),
    "SELECT b.x FROM (SELECT id FROM berth) b": ("unknown-column", "b.x"),
    "SELECT 1 FROM harbour JOIN berth USING (label)": ("unknown-column", "label"),
    "SELECT *": ("unresolvable", "*"),
    "SELECT z.* FROM harbour": ("unknown-table", "z"),
    "SELECT other.harbour.name FROM harbour": ("unresolvable", "other.harbour.name"),
    "WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT m FROM r) SELECT n FROM r": ("unknown-column", "m"),
}


@pytest.mark.parametrize("sql", FAULTS)
def test_faults(sql: str, catalog: Catalog) -> None:
    (fault,) = faults(sql, catalog)
    assert (fault.kind, fault.name) == FAULTS[sql]


def test_one_unknown_table_does_not_bring_a_flood_of_unknown_columns(catalog: Catalog) -> None:
    assert [f.kind for f in faults("SELECT a, b.c, * FROM nowhere AS b WHERE d = 1", catalog)] == ["unknown-table"]


def test_a_derived_table_does_not_see_its_neighbours(catalog: Catalog) -> None:
    (fault,) = faults("SELECT 1 FROM harbour h JOIN (SELECT h.name AS n) q ON q.n = h.name", catalog)
    assert fault.kind == "unknown-table"


def test_a_column_of_another_table_says_where_it_is(catalog: Catalog) -> None:
    (fault,) = faults("SELECT litres FROM vessel", catalog)
    assert fault.elsewhere == ("fuel_log",)


@pytest.mark.parametrize(
    ("word", "first"),
    [
        ("weather", "weather_reading"),
        ("sailings", "sailing"),
        ("bookng", "booking"),
        ("Harbor", "harbour"),
        ("crew", "crew_shift"),
    ],
)
def test_nearest_names(word: str, first: str, catalog: Catalog) -> None:
    assert first in closest(word, [t.name for t in catalog.tables])


def test_stars_stand_for_their_columns_in_order(catalog: Catalog) -> None:
    found = resolve(
        parse("SELECT b.*, h.name FROM berth b JOIN harbour h ON h.id = b.harbour_id", "sqlite")[0], catalog
    )
    ((_, columns),) = found.stars
    assert [c.sql() for c in columns] == ["b.id", "b.harbour_id", "b.label", "b.max_length_m"]


@pytest.mark.parametrize(
    ("name", "written"), [("plain", "plain"), ("order", '"order"'), ("Two Words", '"Two Words"'), ('q"q', '"q""q"')]
)
def test_identifiers_are_quoted_when_they_must_be(name: str, written: str) -> None:
    assert identifier(name).sql(dialect="sqlite") == written


def test_parse_faults_know_their_place() -> None:
    with pytest.raises(ParseFault) as caught:
        parse("SELECT name FROM harbour WHERE )", "sqlite")
    assert caught.value.start is not None
    with pytest.raises(ParseFault):
        parse("SELECT " + "(" * 3000 + "1" + ")" * 3000, "sqlite")


def test_rendering_drops_comments_and_keeps_texts() -> None:
    (tree,) = parse("SELECT '--no comment' /* a comment */ FROM harbour -- another", "sqlite")
    assert render(tree, "sqlite") == "SELECT '--no comment' FROM harbour"


def test_aliases_over_all_of_a_statement() -> None:
    sql = "WITH c AS (SELECT 1 FROM sailing AS s) SELECT 1 FROM c JOIN vessel AS V ON 1 = 1"
    assert aliases(parse(sql, "sqlite")[0]) == {"s": "sailing", "c": "c", "v": "vessel"}
