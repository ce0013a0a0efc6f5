"""Review: what each rule finds and what it leaves alone, on three engines, and what becomes of it in an inquiry."""

from __future__ import annotations

import pkgutil
import re
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
import sqlglot
from pydantic import ValidationError
from trust import academy, stores
from trust.cases import Case, cases
from trust.world import World, academy_world, stores_world, world

from harquel.core.briefing import CatalogIndex
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.findings import REVIEW_CODES, Finding
from harquel.core.domain.policy import Lessened, Policy, ReviewTerms
from harquel.core.domain.statements import DraftedStatement
from harquel.core.engines import engine_for
from harquel.core.guard import rule_on_text
from harquel.core.inquiry.repair import changes
from harquel.core.review import review_draft, rules
from harquel.core.review.context import ReviewContext
from harquel.core.review.statement import Statement, statement_of
from harquel.demo.load_servers import READER, READER_PASSWORD
from harquel.demo.servers import Mariadb, Postgresql
from harquel.testing.sources import NOW, demo_policy, engine_source
from tests.conftest import DATA, servers

CASES = [(f.stem, case) for f in sorted((DATA / "review").glob("*.yaml")) for case in read_yaml(f.read_text())]
MODULES = [m.name for m in pkgutil.iter_modules(rules.__path__)]


def corpus(of: Any) -> list[Case]:
    return cases(sorted((of.FOLDER / "corpus").glob("*.yaml")))


@pytest.fixture(scope="module")
def demo(ferries: Path) -> World:
    return world(ferries)


@pytest.fixture(scope="module")
def first_day(tmp_path_factory: pytest.TempPathFactory) -> World:
    """A source that nobody has written notes on."""
    database = tmp_path_factory.mktemp("academy") / "academy.db"
    academy.load(database)
    return academy_world(database)


def found(sql: str, demo: World, index: CatalogIndex | None = None) -> list[Finding]:
    index = index or demo.index
    ruled = rule_on_text(DraftedStatement(sql), index.catalog.engine, index.catalog, index.policy)
    assert ruled.tree is not None, ruled.findings
    return review_draft(ruled.tree, index, NOW).findings


@pytest.mark.parametrize(("file", "case"), CASES, ids=[f"{f}: {c['sql'][:70]}" for f, c in CASES])
def test_case(file: str, case: dict[str, Any], demo: World, first_day: World) -> None:
    findings = found(case["sql"], first_day if case.get("over") == "academy" else demo)
    codes = {f.rule for f in findings}
    assert "not-reviewed" not in codes
    if case["finds"] is None:
        own = next(r.codes for r in rules.RULES if r.name == file)
        assert not {f.rule for f in findings if f.severity != "info"} & set(own), findings
        return
    assert case["finds"] in codes, findings
    said = next(f for f in findings if f.rule == case["finds"])
    assert case.get("says", "") in f"{said.message} {said.hint}"
    assert said.hint
    if said.start is not None:
        assert said.end is not None
        assert 0 <= said.start < said.end <= len(case["sql"])


def test_every_rule_has_its_cases_a_reason_and_examples() -> None:
    """A rule is a value: this asks what it says of itself, not what its source looks like."""
    assert {r.name for r in rules.RULES} == {f for f, _ in CASES}
    for rule in rules.RULES:
        assert rule.reason.endswith("."), rule.name
        assert rule.bad, rule.name
        assert rule.good, rule.name
        assert set(rule.codes) <= REVIEW_CODES, rule.name
        assert any(c["finds"] in rule.codes for f, c in CASES if f == rule.name), rule.name


def test_no_rule_finds_what_it_does_not_say(demo: World, first_day: World) -> None:
    said = {(r.name, code) for r in rules.RULES for code in r.codes}
    seen: set[tuple[str, str]] = set()
    for file, case in CASES:
        world = first_day if case.get("over") == "academy" else demo
        tree = rule_on_text(DraftedStatement(case["sql"]), "sqlite", world.index.catalog, world.policy).tree
        assert tree is not None, file
        context = ReviewContext(statement_of(tree, world.index.catalog), world.index.notes, world.policy, NOW)
        seen |= {(rule.name, f.rule) for rule in rules.RULES for f in rule(context)}
    assert seen <= said, seen - said
    # And nearly all of what they say is found somewhere.
    assert len(seen) > 0.9 * len(said), said - seen


def test_a_place_is_the_one_that_is_meant(demo: World) -> None:
    sql = "SELECT COUNT(*) FROM sailing WHERE route_id = 3 AND status = 'cancelled'"
    (finding,) = [f for f in found(sql, demo) if f.rule == "code-by-meaning"]
    assert sql[finding.start : finding.end] == "status"


def dialect(sql: str, engine: str) -> str | None:
    """A draft of the measure in another engine's words; None where it has none."""
    if engine == "sqlite":
        return sql
    formats = {"%Y-%m": "YYYY-MM", "%Y": "YYYY", "%m": "MM", "%w": "D", "%H": "HH24", "%d": "DD", "%W": "IW"}
    as_text = {
        "postgresql": lambda m: f"to_char({m.group(2)}, '{formats[m.group(1)]}')",
        "mariadb": lambda m: f"DATE_FORMAT({m.group(2)}, '{m.group(1)}')",
    }[engine]
    if "'%s'" in sql or not set(re.findall(r"strftime\('([^']*)'", sql)) <= formats.keys():
        return None
    sql = re.sub(r"strftime\('([^']*)', ([\w.]+)\)", as_text, sql)
    if re.search(r"julianday|strftime|datetime\(|date\('|%w|'IW'|'D'", sql) or "CROSS JOIN total" in sql:
        return None
    sql = re.sub(r"\bdate\(([\w.]+)\)", r"CAST(\1 AS DATE)", sql)
    return sqlglot.transpile(sql.replace('m."order"', "m.kind"), read="sqlite" if engine == "postgresql" else "mysql",
                             write="postgres" if engine == "postgresql" else "mysql")[0]  # fmt: skip


@pytest.fixture(scope="module")
def indexes(
    ferries: Path, demo: World, postgresql: Postgresql, mariadb: Mariadb, model_url: str
) -> dict[str, CatalogIndex]:
    made = {"sqlite": demo.index}
    for server in (postgresql, mariadb):
        source, keeper = engine_source(
            engine_for(server.url("ferries", READER, READER_PASSWORD), ferries.parent), model_url, policy=demo_policy()
        )
        name = keeper.engine.name
        catalog = demo_policy().visible(keeper.current())
        made[name] = CatalogIndex.build(catalog, source.notes, demo_policy())
        source.sandbox.close()
    return made


@servers
def test_the_same_is_found_on_every_engine(demo: World, indexes: dict[str, CatalogIndex]) -> None:
    compared, differ = 0, []
    for case in cases()[::15]:
        expected: frozenset[str] | None = None
        for engine, index in indexes.items():
            sql = dialect(case.sql, engine)
            ruled = rule_on_text(DraftedStatement(sql), engine, index.catalog, index.policy) if sql else None
            if sql is None or ruled is None or ruled.tree is None or ruled.statement is None:
                continue
            findings = review_draft(ruled.tree, index, NOW)
            # MariaDB divides whole numbers without loss.
            codes = frozenset(f.rule for f in findings.findings) - {"integer-division"}
            expected = codes if expected is None else expected
            compared += engine != "sqlite"
            if codes != expected:
                differ.append((engine, sorted(codes ^ expected), [f.message for f in findings.findings], sql))
    assert differ == [], "\n".join(map(str, differ))
    assert compared > 40


def test_what_holds_whatever_was_asked_is_hardly_ever_said_of_right_drafts(demo: World, tmp_path: Path) -> None:
    """Over schemas that no rule was written with, too: a false alarm is a warning that people learn to overlook."""
    stores.load(tmp_path / "stores.db")
    academy.load(tmp_path / "academy.db")
    for around, known in (
        (demo, cases()[::5]), (stores_world(tmp_path / "stores.db"), corpus(stores)),
        (academy_world(tmp_path / "academy.db"), corpus(academy)),
    ):  # fmt: skip
        said = {True: [0, 0], False: [0, 0]}
        for case in known:
            ruled = rule_on_text(DraftedStatement(case.sql), "sqlite", around.index.catalog, around.index.policy)
            if ruled.tree is None:
                continue
            loud = any(f.severity != "info" for f in review_draft(ruled.tree, around.index, NOW).findings)
            said[bool(case.kind)][loud] += 1
        assert said[False][True] <= 0.04 * sum(said[False]), said
        assert said[True][True] >= 0.15 * sum(said[True]), said


def test_a_steward_may_lessen_a_finding_with_a_reason(demo: World) -> None:
    """One that is no longer made may stand in a policy of before, and does nothing."""
    sql = "SELECT SUM(DISTINCT amount_eur) FROM payment"
    for terms, expected in (
        (ReviewTerms(mild=(Lessened(finding="not-known", reason="jargon"),)), [("distinct-drops", "error")]),
        (ReviewTerms(mild=(Lessened(finding="distinct-drops", reason="old"),)), [("distinct-drops", "info")]),
        (ReviewTerms(dropped=(Lessened(finding="distinct-drops", reason="old"),)), []),
    ):
        policy: Policy = demo.index.policy.model_copy(update={"review": terms})
        index = replace(demo.index, policy=policy)
        assert [(f.rule, f.severity) for f in found(sql, demo, index)] == expected
    with pytest.raises(ValidationError, match="the nearest is distinct-drops"):
        Policy.model_validate({"review": {"dropped": [{"finding": "distinct-drop", "reason": "x"}]}})


def test_changes_are_told_by_clause() -> None:
    told = changes("SELECT a FROM t WHERE b = 1", "SELECT a\nFROM t WHERE b = 2 LIMIT 3")
    assert [f"{c.kind} {c.text}" for c in told] == ["removed WHERE b = 1", "added WHERE b = 2", "added LIMIT 3"]


def test_a_statement_that_doubles_at_each_step_is_read_in_time(demo: World, monkeypatch: pytest.MonkeyPatch) -> None:
    """Forty queries, each made of the one before it twice over: what is known of one is known for good."""
    steps, origin = [0], Statement.origin

    def counted(self: Statement, *given: Any) -> Any:
        steps[0] += 1
        assert steps[0] < 20_000
        return origin(self, *given)

    monkeypatch.setattr(Statement, "origin", counted)
    made = ["c0 AS (SELECT total_cents + id AS x FROM booking)"]
    made += [f"c{n} AS (SELECT a.x + b.x AS x FROM c{n - 1} a JOIN c{n - 1} b ON b.x = a.x)" for n in range(1, 40)]
    sql = f"WITH {', '.join(made)} SELECT SUM(x) / 100.0 AS eur FROM c39"
    findings = found(sql, demo)
    assert "not-reviewed" not in {f.rule for f in findings}
    assert steps[0] > 0
