"""Values are written by the same rules in console, terminal and sentence."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import pytest

from harquel.contract import ResultColumn
from harquel.contract.figures import written
from harquel.core.answers import decimals_of, roles_of
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.review.statement import statement_of
from harquel.core.sql import parse
from harquel.testing.sources import demo_policy, scanned

ROOT = Path(__file__).parents[2]
CASES = read_yaml((ROOT / "tests" / "data" / "figures.yaml").read_text("utf-8"))
_ASK = """
import { readFileSync } from 'node:fs'
import { transformWithOxc } from 'vite'
const made = await transformWithOxc(readFileSync('src/shared/figures.ts', 'utf8'), 'figures.ts', {})
const { written } = await import('data:text/javascript,' + encodeURIComponent(made.code))
const cases = JSON.parse(readFileSync(0, 'utf8'))
console.log(JSON.stringify(cases.map(([value, column]) => written(value, { role: null, decimals: null, ...column }))))
"""


def test_the_service_follows_the_rules() -> None:
    assert [written(v, ResultColumn(name="x", **c)) for v, c, _ in CASES] == [said for *_, said in CASES]


def test_the_console_follows_the_same() -> None:
    done = subprocess.run(
        ["node", "--input-type=module", "-e", _ASK],
        cwd=ROOT / "console", input=json.dumps(CASES), capture_output=True, text=True, check=False, timeout=60,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout) == [said for *_, said in CASES]


@pytest.mark.parametrize(
    ("values", "unit", "decimals"),
    [
        ([1.0, 2.0], None, 0),
        ([1.0, 2.5], None, 1),
        ([1.0, 2.504], None, 1),
        (["2.5000", None, "3.25"], None, 2),
        (["12.0000"], "EUR", 2),
        ([], None, 0),
        (["NaN", None], "km", 0),
        ([1e30, -1e300, 5e-324], None, 0),
        (["9" * 5000, "0." + "3" * 5000], None, 2),
    ],
)
def test_a_column_has_as_many_decimals_as_it_needs(values: list[object], unit: str | None, decimals: int) -> None:
    assert decimals_of(values, unit) == decimals


@pytest.mark.parametrize(
    ("sql", "roles"),
    [
        ("SELECT b.id, b.sailing_id, b.total_cents FROM booking AS b", ["key", "key", None]),
        ("SELECT x.n, x.y, x.c FROM (SELECT MAX(id) AS n, strftime('%Y', booked_at) AS y, COUNT(*) AS c FROM booking"
         " GROUP BY 2) AS x", ["key", "year", None]),
        ("SELECT CAST(strftime('%Y', booked_at) AS INTEGER), COUNT(DISTINCT strftime('%Y', booked_at)) FROM booking"
         " GROUP BY 1", ["year", None]),
        ("SELECT COUNT(id), id + 1 FROM booking GROUP BY 2", [None, None]),
        ("SELECT v.*, 1 AS one FROM vessel AS v", ["key", None, None, "year", *[None] * 4, None]),
        ("VALUES (1)", [None]),
        ("(VALUES (1))", []),
    ],
)  # fmt: skip
def test_keys_and_years_are_no_figures(sql: str, roles: list[str | None], ferries: Path) -> None:
    catalog = scanned(ferries, demo_policy())
    assert roles_of(statement_of(parse(sql, "sqlite")[0], catalog)) == roles
