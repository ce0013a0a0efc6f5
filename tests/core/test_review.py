"""Review: what each rule finds and what it leaves alone, on three engines, and what becomes of it in an inquiry."""

from __future__ import annotations

import importlib
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
from trust.measure import source_over, source_with
from trust.world import World, academy_world, stores_world, world

from harquel.core.briefing import CatalogIndex, Describer
from harquel.core.briefing.meanings import stands_for
from harquel.core.domain.events import Unwatched
from harquel.core.domain.findings import REVIEW_CODES, Finding
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.notes import TableNotes
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Approval, Lessened, Policy, ReviewTerms
from harquel.core.domain.statements import DraftedStatement
from harquel.core.engines import engine_for
from harquel.core.guard import rule_on_text
from harquel.core.inquiry.conduct import conduct, go_on
from harquel.core.inquiry.repair import changes
from harquel.core.review import placed, read_question, review_draft, rules
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
        own = set(re.findall(r'"([a-z-]+)",? "(?:error|warning)', source_of(file))) | {code_of(file)}
        assert not codes & own, findings
        return
    assert case["finds"] in codes, findings
    said = next(f for f in findings if f.rule == case["finds"])
    assert case.get("says", "") in f"{said.message} {said.hint}"
    assert said.hint
    if said.start is not None:
        assert said.end is not None
        assert 0 <= said.start < said.end <= len(case["sql"])


def source_of(rule: str) -> str:
    return (Path(rules.__path__[0]) / f"{rule}.py").read_text()


def code_of(rule: str) -> str:
    return str(importlib.import_module(f"{rules.__name__}.{rule}").CODE)


def test_every_rule_has_its_cases_a_reason_and_examples() -> None:
    assert {f for f, _ in CASES} == set(MODULES)
    for name in MODULES:
        text = source_of(name)
        assert re.search(r'"""[A-Z].*?\.\n\nBad:  .*\nGood: .*', text, re.DOTALL), name
        codes = set(re.findall(r'finding\(\s*"([a-z-]+)"', text)) | {code_of(name)}
        assert codes <= REVIEW_CODES, (name, codes - REVIEW_CODES)
        assert any(c["finds"] for f, c in CASES if f == name), name


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
    for case in cases()[::6]:
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
    assert compared > 100


def test_the_drafts_of_the_measure_keep_to_its_bounds(demo: World) -> None:
    """Every second of them; `make trust` looks at all."""
    silent, alarms, right, wrong = [], [], 0, 0
    for case in cases()[::2]:
        ruled = rule_on_text(DraftedStatement(case.sql), "sqlite", demo.index.catalog, demo.index.policy)
        refused = ruled.statement is None
        loud = refused or any(f.severity != "info" for f in found(case.question, case.sql, demo))
        if case.kind:
            wrong += 1
            silent += [] if loud else [case]
        else:
            right += 1
            alarms += [case] if loud else []
    assert (wrong >= 100, right >= 75) == (True, True)
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


QUESTION = "How many sailings were cancelled in August 2026?"
WRONG = "SELECT COUNT(*) FROM sailing WHERE status = 'cancelled' AND scheduled_departure >= '2026-08-01'"
WORSE = "SELECT COUNT(*) FROM sailing_archive WHERE status = 'cancelled'"
RIGHT = (
    "SELECT COUNT(*) FROM sailing WHERE status = 'X' AND scheduled_departure >= '2026-08-01' "
    "AND scheduled_departure < '2026-09-01'"
)


def test_a_doubtful_draft_is_repaired_and_what_changed_is_kept(ferries: Path) -> None:
    with source_with(ferries, Scripted(WRONG, RIGHT)) as source:
        inquiry = ask(source, QUESTION)
    assert inquiry.answer is not None
    assert (inquiry.trust, inquiry.answer.table.rows, len(inquiry.attempts)) == ("clear", [[12]], 2)
    first, second = inquiry.attempts
    assert first.run is None
    assert {"code-by-meaning", "period"} <= {f.rule for f in first.findings}
    assert ("removed", "WHERE status = 'cancelled'") in [(c.kind, c.text) for c in second.changes]
    assert ("added", "AND scheduled_departure < '2026-09-01'") in [(c.kind, c.text) for c in second.changes]


def test_of_doubtful_drafts_the_best_goes_out_with_its_caveats(ferries: Path) -> None:
    with source_with(ferries, Scripted(WRONG, WORSE, WORSE)) as source:
        inquiry = ask(source, QUESTION)
    assert inquiry.answer is not None
    assert (inquiry.outcome, inquiry.trust, len(inquiry.attempts)) == ("answered", "caution", 3)
    assert inquiry.answer.sql.startswith("SELECT COUNT(*) FROM sailing WHERE")
    assert inquiry.answer.caveats[0].rule in ("code-by-meaning", "period")
    assert [a.run is not None for a in inquiry.attempts] == [True, False, False]


def test_what_is_held_is_the_best_of_the_drafts(ferries: Path) -> None:
    with source_with(ferries, Scripted(WRONG, WORSE, WORSE)) as source:
        policy = source.policy.model_copy(update={"approval": Approval(always=True)})
        held = ask(replace(source, describer=Describer(policy, source.notes)), QUESTION)
        assert (held.state, held.hold is not None) == ("held", True)
        last = held.attempts[-1]
        assert last.draft is not None
        assert last.draft.sql == WRONG
        released = go_on(held, source, Unwatched(), NOW, Person("Ada Brinewell"), "Rhea Quist")
    assert released.answer is not None
    assert (released.trust, released.answer.sql.startswith("SELECT COUNT(*) FROM sailing WHERE")) == ("caution", True)


def test_the_same_draft_twice_ends_the_repair(ferries: Path) -> None:
    with source_with(ferries, Scripted(WRONG)) as source:
        assert len(ask(source, QUESTION).attempts) == 2


def caveats(ferries: Path, question: str, *drafts: str) -> list[tuple[str, str]]:
    with source_with(ferries, Scripted(*drafts)) as source:
        inquiry = ask(source, question)
    assert inquiry.answer is not None, inquiry.problem
    return [(c.rule, c.message) for c in inquiry.answer.caveats]


def test_the_condition_that_left_nothing_over_is_named(ferries: Path) -> None:
    question = "Which incidents of the category medical had a severity of 5 in July 2026?"
    draft = (
        "SELECT id FROM incident WHERE category = 'medical' AND severity = 5 AND reported_at >= '2026-07-01' "
        "AND reported_at < '2026-08-01'"
    )
    # There are incidents of that severity, only none of these: that is the answer, and no doubt.
    assert caveats(ferries, question, draft) == []
    with source_with(ferries, Scripted(draft)) as source:
        found = ask(source, question)
    assert found.answer is not None
    assert "because of severity = 5; without it there are" in found.answer.text
    said = dict(caveats(ferries, "Which bookings came through fax?", "SELECT id FROM booking WHERE channel = 'fax'"))
    assert "because of channel = 'fax'; without it there are 14,907" in said["result-empty"]
    assert "'web' (7,204)" in said["result-empty"]
    # Where WHERE leaves nothing to group, HAVING is not the reason.
    grouped = "SELECT sailing_id FROM booking WHERE channel = 'fax' GROUP BY sailing_id HAVING COUNT(*) > 2"
    said = dict(caveats(ferries, "Sailings with more than 2 bookings through fax", grouped))
    assert "because of channel = 'fax'; without it there are 14,907" in said["result-empty"]


@pytest.mark.parametrize(
    ("question", "draft", "text"),
    [
        ("On which days in July 2026 were more than two sailings cancelled?",
         "SELECT date(scheduled_departure) AS day FROM sailing WHERE status = 'X' AND "
         "scheduled_departure >= '2026-07-01' AND scheduled_departure < '2026-08-01' GROUP BY day HAVING COUNT(*) > 2",
         "Nothing in the data meets these conditions. No group meets COUNT(*) > 2: COUNT(*) lies between 1 and 2."),
        ("Which vessels can carry more than 400 passengers?",
         "SELECT name FROM vessel WHERE passenger_capacity > 400",
         "Nothing in the data meets these conditions. No row is left because of passenger_capacity > 400; without it "
         "there are 6. There vessel.passenger_capacity is between 150 and 380."),
        ("Names of the harbours nobody lives in",
         "SELECT h.name FROM harbour h WHERE NOT EXISTS (SELECT 1 FROM customer c WHERE c.home_harbour = h.id AND "
         "c.deleted_at IS NULL)", "Nothing in the data meets these conditions."),
    ],
)  # fmt: skip
def test_none_may_be_the_answer_where_the_question_names_the_reason(
    ferries: Path, question: str, draft: str, text: str
) -> None:
    with source_with(ferries, Scripted(draft)) as source:
        inquiry = ask(source, question)
    assert inquiry.answer is not None
    assert (inquiry.trust, inquiry.answer.text) == ("clear", text)


def test_rows_without_a_name_are_said_to_be_so(ferries: Path) -> None:
    draft = "SELECT cancel_reason, COUNT(*) AS n FROM sailing WHERE scheduled_departure >= '2026-01-01' GROUP BY 1"
    assert "result-unnamed" in [r for r, _ in caveats(ferries, "Reasons for cancellations since January 2026", draft)]
    # What an empty channel means stands in the notes.
    draft = "SELECT channel, COUNT(*) AS n FROM booking GROUP BY channel"
    assert caveats(ferries, "Number of bookings per channel", draft) == []


def test_a_tie_that_is_cut_off_is_said(ferries: Path) -> None:
    draft = (
        "SELECT r.code, COUNT(*) AS n FROM sailing s JOIN route r ON r.id = s.route_id GROUP BY r.code ORDER BY n DESC"
    )
    assert [r for r, _ in caveats(ferries, "Which route had the most sailings?", f"{draft} LIMIT 1")] == ["result-ties"]
    assert [r for r, _ in caveats(ferries, "Which route had the most sailings?", f"{draft}, r.code LIMIT 1")] == [
        "result-ties"
    ]
    assert caveats(ferries, "Which two routes had the most sailings?", f"{draft} LIMIT 2") == []
    # In the order of names alone nothing is level.
    named = "SELECT vessel_id, logged_at, litres FROM fuel_log JOIN vessel ON vessel.id = vessel_id ORDER BY name, {}"
    some = "Show some litres of fuel with vessel"
    assert "result-ties" not in [r for r, _ in caveats(ferries, some, named.format("logged_at LIMIT 5"))]


@pytest.mark.parametrize(
    ("question", "draft", "rule"),
    [
        ("Share of cancelled sailings", "SELECT 100.0 * COUNT(*) / SUM(CASE WHEN status = 'X' THEN 1 END) AS share "
         "FROM sailing", "result-outside"),
        ("Number of sailings per status", "SELECT status, COUNT(*) AS n FROM sailing WHERE status = 'X' "
         "GROUP BY status", "result-single"),
        ("Routes and their berths", "SELECT r.code, h.island FROM route r JOIN harbour h ON h.id = r.from_harbour_id "
         "JOIN berth b ON b.harbour_id = h.id", "result-repeats"),
    ],
)  # fmt: skip
def test_results_that_cannot_be_are_doubted(ferries: Path, question: str, draft: str, rule: str) -> None:
    assert rule in [r for r, _ in caveats(ferries, question, draft)]


def test_a_value_that_was_never_seen_is_looked_up_once(ferries: Path) -> None:
    draft = "SELECT COUNT(*) FROM incident WHERE note = 'No such note.'"
    with source_with(ferries, Scripted(draft)) as source:
        first = ask(source, "How many incidents have the note no such note?")
        ask(source, "How many incidents have the note no such note?")
    assert first.answer is not None
    assert "unknown-value" in [c.rule for c in first.answer.caveats]
    assert list(source.looked_up.values()) == [False]


def test_a_german_question_gets_its_read_back_in_german(ferries: Path) -> None:
    asked = Inquiry(
        id="test", state="working", source="ferries", question="Wie viele Überfahrten fielen im August 2026 aus?",
        asked_by="Ada Brinewell", asked_at=NOW, language="de",
    )  # fmt: skip
    with source_with(ferries, Scripted(RIGHT)) as source:
        inquiry = conduct(asked, source, Unwatched(), NOW)
    assert inquiry.answer is not None
    assert str(inquiry.answer.read_back).startswith("Ergibt: die Anzahl Zeilen. Liest sailing.")
    assert [c.rule for c in inquiry.answer.caveats] == ["not-read"]


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
