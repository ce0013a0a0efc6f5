"""Review: what each rule finds and what it leaves alone, on three engines, and what becomes of it in an inquiry."""

from __future__ import annotations

import pkgutil
import re
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
import sqlglot
import yaml
from pydantic import ValidationError
from trust import academy, stores
from trust.cases import cases
from trust.measure import source_over
from trust.world import World, academy_world, stores_world, world

from harquel.core.briefing import CatalogIndex, Describer
from harquel.core.briefing.meanings import stands_for
from harquel.core.domain.findings import REVIEW_CODES, Finding
from harquel.core.domain.notes import TableNotes
from harquel.core.domain.policy import Lessened, Policy, ReviewTerms
from harquel.core.domain.statements import DraftedStatement
from harquel.core.engines import engine_for
from harquel.core.guard import rule_on_text
from harquel.core.inquiry.repair import changes
from harquel.core.review import placed, read_question, review_draft, rules
from harquel.core.review.draft import context_of
from harquel.core.review.statement import Statement
from harquel.demo.load_servers import READER, READER_PASSWORD
from harquel.demo.servers import Mariadb, Postgresql
from harquel.testing.scripted import Scripted
from harquel.testing.sources import NOW, ask, demo_policy, engine_source
from tests.conftest import DATA, servers

CASES = [(f.stem, case) for f in sorted((DATA / "review").glob("*.yaml")) for case in yaml.safe_load(f.read_text())]
MODULES = [m.name for m in pkgutil.iter_modules(rules.__path__)]


@pytest.fixture(scope="module")
def demo(ferries: Path) -> World:
    return world(ferries)


@pytest.fixture(scope="module")
def first_day(tmp_path_factory: pytest.TempPathFactory) -> World:
    """A source that nobody has written notes on."""
    database = tmp_path_factory.mktemp("academy") / "academy.db"
    academy.load(database)
    return academy_world(database)


def found(question: str, sql: str, demo: World, index: CatalogIndex | None = None) -> list[Finding]:
    index = index or demo.index
    ruled = rule_on_text(DraftedStatement(sql), index.catalog.engine, index.catalog, index.policy)
    assert ruled.tree is not None, ruled.findings
    asked = read_question(question, NOW, index.meanings)
    return review_draft(ruled.tree, asked, index, demo.examples).findings


def test_half_of_what_counts_is_not_what_counts(demo: World) -> None:
    """A default filter of two conditions is kept when both are, in whatever form, or one is asked about."""
    customer = demo.index.notes.tables["customer"]
    both = customer.model_copy(update={"default_filter": "deleted_at IS NULL AND NOT is_staff"})
    notes = demo.index.notes.model_copy(update={"tables": {**demo.index.notes.tables, "customer": both}})
    index = Describer(demo.index.policy, notes).of(demo.whole)
    for question, where, right in (
        ("How many customers are there?", "deleted_at IS NULL", False),
        ("How many customers are there?", "is_staff = 0", False),
        ("How many customers are there?", "deleted_at IS NULL AND is_staff = 0", True),
        ("How many customers are there?", "is_staff IN (0) AND deleted_at IS NULL", True),
        ("How many customers are staff?", "deleted_at IS NULL AND is_staff", True),
    ):
        codes = {f.rule for f in found(question, f"SELECT COUNT(*) FROM customer WHERE {where}", demo, index)}
        assert ("default-filter" not in codes) == right, (question, where)


def test_a_label_that_many_rows_share_does_not_tell_them_apart(demo: World) -> None:
    """Whoever writes notes may call the kind of a thing its label: then "per thing" is not "per kind"."""
    question, sql = (
        "Number of crew shifts per crew member",
        ("SELECT m.rank, COUNT(*) FROM crew_shift s JOIN crew_member m ON m.id = s.crew_member_id GROUP BY m.rank"),
    )
    tables = {**demo.index.notes.tables, "crew_member": TableNotes(label="rank")}
    notes = demo.index.notes.model_copy(update={"tables": tables})
    index = Describer(demo.index.policy, notes).of(demo.whole)
    assert "not-grouped" in {f.rule for f in found(question, sql, demo, index)}


@pytest.mark.parametrize(("file", "case"), CASES, ids=[f"{f}: {c['sql'][:70]}" for f, c in CASES])
def test_case(file: str, case: dict[str, Any], demo: World, first_day: World) -> None:
    findings = found(case["question"], case["sql"], first_day if case.get("over") == "academy" else demo)
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
        question = read_question(case["question"], NOW, world.index.meanings)
        context = context_of(tree, question, world.index, world.examples)
        seen |= {(rule.name, f.rule) for rule in rules.RULES for f in rule(context)}
    assert seen <= said, seen - said
    # And nearly all of what they say is found somewhere.
    assert len(seen) > 0.9 * len(said), said - seen


def test_a_place_is_the_one_that_is_meant(demo: World) -> None:
    sql = "SELECT COUNT(*) FROM sailing WHERE route_id = 3 AND status = 'cancelled'"
    (finding,) = [f for f in found("How many sailings were cancelled?", sql, demo) if f.rule == "code-by-meaning"]
    assert sql[finding.start : finding.end] == "status"


def test_a_limit_has_its_place_where_there_is_one_only() -> None:
    finding = Finding(rule="unasked-limit", severity="error", message="")
    one = "SELECT name -- LIMIT 9\nFROM vessel WHERE name <> 'LIMIT 7'\nLIMIT 5"
    (at,) = placed([finding], one, "sqlite")
    assert one[at.start : at.end] == "LIMIT 5"
    several = "SELECT * FROM (SELECT name FROM vessel LIMIT 3) AS v LIMIT 5"
    assert placed([finding], several, "sqlite") == [finding]
    assert placed([replace(finding, rule="unit")], one, "sqlite")[0].start is None


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
            findings = review_draft(ruled.tree, read_question(case.question, NOW, index.meanings), index, demo.examples)
            # MariaDB divides whole numbers without loss.
            codes = frozenset(f.rule for f in findings.findings) - {"integer-division"}
            expected = codes if expected is None else expected
            compared += engine != "sqlite"
            if codes != expected:
                differ.append((engine, sorted(codes ^ expected), [f.message for f in findings.findings], sql))
    assert differ == [], "\n".join(map(str, differ))
    assert compared > 40


def test_the_drafts_of_the_measure_keep_to_its_bounds(demo: World) -> None:
    """Every fifth of them; `make trust` looks at all."""
    silent, alarms, right, wrong = [], [], 0, 0
    for case in cases()[::5]:
        ruled = rule_on_text(DraftedStatement(case.sql), "sqlite", demo.index.catalog, demo.index.policy)
        refused = ruled.statement is None
        loud = refused or any(f.severity != "info" for f in found(case.question, case.sql, demo))
        if case.kind:
            wrong += 1
            silent += [] if loud else [case]
        else:
            right += 1
            alarms += [case] if loud else []
    assert (wrong >= 40, right >= 30) == (True, True)
    assert len(silent) <= 0.05 * wrong, silent
    assert len(alarms) <= 0.05 * right, alarms


@pytest.mark.parametrize(("schema", "most_alarms"), [("stores", 0.05), ("academy", 0.2), ("academy with notes", 0.08)])
def test_a_schema_that_no_rule_was_written_with_keeps_to_them_too(
    schema: str, most_alarms: float, tmp_path: Path
) -> None:
    made = stores if schema == "stores" else academy
    made.load(tmp_path / "other.db")
    other = (
        stores_world(tmp_path / "other.db") if made is stores else academy_world(tmp_path / "other.db", " " in schema)
    )
    known = cases(sorted((made.FOLDER / "corpus").glob("*.yaml")))
    silent = [c.sql for c in known if c.kind and all(f.severity == "info" for f in found(c.question, c.sql, other))]
    alarms = [c.sql for c in known if not c.kind and any(f.severity != "info" for f in found(c.question, c.sql, other))]
    assert len(known) > 190
    # A few are seen only in what comes back.
    assert len(silent) <= 0.05 * len(known), silent
    assert len(alarms) <= most_alarms * len(known), alarms


@pytest.mark.parametrize(
    ("question", "sql", "trust"),
    [
        ("What does the course on night navigation cost?", "SELECT fee FROM course WHERE code = 'NAV2'", "clear"),
        ("What does the course on night navigation cost?", "SELECT fee FROM course WHERE code = 'NAV1'", "caution"),
        ("How many runs were in the room Bridge?", "SELECT COUNT(*) FROM course_run WHERE room_id = 3", "clear"),
        ("How many runs were in the room Bridge?", "SELECT COUNT(*) FROM course_run WHERE room_id = 2", "caution"),
    ],
)
def test_a_key_is_held_against_what_its_row_is_called(question: str, sql: str, trust: str, first_day: World) -> None:
    with source_over(first_day, Scripted(sql)) as source:
        inquiry = ask(source, question)
        assert inquiry.answer is not None
        assert inquiry.trust == trust, inquiry.answer.caveats
        assert [k[0] for k in source.looked_up] == ["named"]


def test_a_steward_may_lessen_a_finding_with_a_reason(demo: World) -> None:
    sql = "SELECT COUNT(*) FROM customer"
    for terms, expected in (
        (ReviewTerms(), [("default-filter", "error")]),
        (ReviewTerms(mild=(Lessened(finding="default-filter", reason="old counts"),)), [("default-filter", "info")]),
        (ReviewTerms(dropped=(Lessened(finding="default-filter", reason="old counts"),)), []),
    ):
        policy: Policy = demo.index.policy.model_copy(update={"review": terms})
        index = replace(demo.index, policy=policy)
        assert [(f.rule, f.severity) for f in found("How many customers are there?", sql, demo, index)] == expected
    with pytest.raises(ValidationError, match="the nearest is default-filter"):
        Policy.model_validate({"review": {"dropped": [{"finding": "default-filtr", "reason": "x"}]}})


def test_a_question_in_another_language_is_said_to_be_unread(demo: World) -> None:
    sql = "SELECT COUNT(*) FROM sailing WHERE status = 'cancelled'"
    codes = [f.rule for f in found("Wie viele Überfahrten fielen im August wegen Nebels aus?", sql, demo)]
    assert codes == ["code-by-meaning", "not-read"]


def test_short_codes_stand_for_names() -> None:
    for code, name in (("GS", "Gullspire"), ("QH-PP", "Pell Point"), ("%GS%", "Gullspire"), ("WE", "Wick Ember")):
        assert stands_for(code, name)
    for code, name in (("QH-DM", "Gullspire"), ("PQ", "Pell Point"), ("S", "Saltreach"), ("12", "Oarsby")):
        assert not stands_for(code, name)


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
    findings = found("Share of the booking value per channel, in euros", sql, demo)
    assert "not-reviewed" not in {f.rule for f in findings}
    assert steps[0] > 0
