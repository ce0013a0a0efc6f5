"""Views have no keys: what review makes of joins with them, as far as names tell."""

from __future__ import annotations

import sqlite3

import pytest

from harquel.core.briefing import CatalogIndex
from harquel.core.domain.notes import Notes
from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.guard import rule_on_text
from harquel.core.review import review_draft
from harquel.testing.sources import NOW, keeper_of

POLICY = Policy(withhold_delicate=False)
WORLD = """
CREATE TABLE quay (quay_id INTEGER PRIMARY KEY, name TEXT NOT NULL);
CREATE TABLE boat (boat_id INTEGER PRIMARY KEY, quay_id INTEGER REFERENCES quay (quay_id), afloat INTEGER NOT NULL);
CREATE TABLE repair (repair_id INTEGER PRIMARY KEY, boat_id INTEGER NOT NULL REFERENCES boat (boat_id), cost INTEGER);
CREATE VIEW afloat AS SELECT boat_id, quay_id FROM boat WHERE afloat = 1;
CREATE VIEW mended AS SELECT boat_id, cost FROM repair;
INSERT INTO quay VALUES (1, 'North'), (2, 'South'), (3, 'West');
INSERT INTO boat VALUES (1, 1, 1), (2, 1, 0), (3, 2, 1), (4, NULL, 0);
INSERT INTO repair VALUES (1, 1, 10), (2, 1, 20), (3, 3, 30);
"""


@pytest.fixture(scope="module")
def index(tmp_path_factory: pytest.TempPathFactory) -> CatalogIndex:
    path = tmp_path_factory.mktemp("views") / "boats.db"
    with sqlite3.connect(path) as connection:
        connection.executescript(WORLD)
    connection.close()
    return CatalogIndex.build(POLICY.visible(keeper_of(path, POLICY).current()), Notes(), POLICY)


@pytest.mark.parametrize(("sql", "finds"), [
    ("SELECT q.name FROM quay q JOIN afloat a ON a.quay_id = q.quay_id", set()),
    ("SELECT COUNT(*) FROM boat b JOIN afloat a ON a.boat_id = b.boat_id", set()),
    ("SELECT COUNT(*) FROM repair r JOIN afloat a ON a.boat_id = r.boat_id", set()),
    ("SELECT q.name FROM quay q JOIN afloat a ON a.boat_id = q.quay_id", {"off-key"}),
    ("SELECT q.name FROM quay q JOIN mended m ON m.cost = q.quay_id", {"off-key"}),
    ("SELECT COUNT(b.boat_id) FROM boat b JOIN mended m ON m.boat_id = b.boat_id", {"multiplied"}),
    ("SELECT COUNT(b.boat_id) FROM boat b JOIN afloat a ON a.boat_id = b.boat_id", set()),
    ("SELECT name FROM quay WHERE quay_id NOT IN (SELECT boat_id FROM afloat)", set()),
    ("SELECT name FROM quay WHERE quay_id NOT IN (SELECT quay_id FROM afloat)", {"not-in-nullable"}),
    ("SELECT name FROM quay WHERE quay_id NOT IN (SELECT quay_id FROM boat)", {"not-in-nullable"}),
])  # fmt: skip
def test_a_view_is_as_the_table_whose_columns_it_shows(index: CatalogIndex, sql: str, finds: set[str]) -> None:
    ruled = rule_on_text(DraftedStatement(sql), "sqlite", index.catalog, POLICY)
    assert ruled.tree is not None
    found = review_draft(ruled.tree, index, NOW).findings
    assert {f.rule for f in found} & {"off-key", "multiplied", "not-in-nullable", "unjoined"} == finds
