"""Row rules and masks: whoever is restricted gets what others get where the forbidden rows and values are not there.

Each engine has the demo world twice: whole, and with the forbidden rows deleted and the masked values overwritten.
Whatever a query says, asked under the policy on the first it gives what it gives without one on the second.
"""

from __future__ import annotations

import datetime as dt
from collections import Counter

import pytest
from breach.corpus import honest
from breach.past_the_rules import run_maze
from breach.restricted import CLERK, LIMITS, POLICY, Side
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Policy, RowRule
from harquel.core.domain.terms import Terms
from harquel.core.errors import SandboxError
from harquel.core.guard.proof import Unproved, prove, restricted_tables
from harquel.core.sql.tree import parse
from tests.conftest import servers
from tests.core.test_scopes import nested

pytestmark = servers


COLUMNS = {
    "customer": ["id", "name", "email", "home_harbour", "joined_on", "is_staff"],
    "booking": ["id", "customer_id", "sailing_id", "channel", "status", "total_cents"],
    "incident": ["id", "sailing_id", "category", "severity"],
    "vessel": ["id", "name", "status", "built_year"],
    "sailing": ["id", "vessel_id", "route_id", "status"],
    "harbour": ["id", "name", "island"],
}
NUMBERS = {"id", "home_harbour", "customer_id", "sailing_id", "total_cents", "severity", "built_year", "vessel_id"}
JOINS = (
    ("booking", "customer", "a.customer_id = b.id"), ("customer", "booking", "a.id = b.customer_id"),
    ("customer", "harbour", "a.home_harbour = b.id"), ("incident", "sailing", "a.sailing_id = b.id"),
    ("sailing", "vessel", "a.vessel_id = b.id"), ("booking", "sailing", "a.sailing_id = b.id"),
    ("booking", "incident", "a.sailing_id = b.sailing_id"), ("vessel", "sailing", "a.id = b.vessel_id"),
)  # fmt: skip


@st.composite
def queries(draw: st.DrawFn) -> str:
    """Queries whose rows have one order only: by all their columns."""
    left, right, on = draw(st.sampled_from(JOINS))
    pick = lambda table, alias: f"{alias}.{draw(st.sampled_from(COLUMNS[table]))}"  # noqa: E731
    value = draw(
        st.sampled_from(
            ["{a}", "UPPER({t})", "COALESCE({t}, 'none')", "CASE WHEN {t} LIKE 'a%' THEN 1 ELSE 0 END",
             "CASE WHEN {a} IS NULL THEN 'no' ELSE 'yes' END", "{n} * 2", "100 / ({n} - 7)"]
        )
    )  # fmt: skip
    texts = [c for c in COLUMNS[left] if c not in NUMBERS and c not in ("joined_on", "is_staff")]
    numbers = [c for c in COLUMNS[left] if c in NUMBERS]
    shown = value.format(
        a=pick(left, "a"), t=f"a.{draw(st.sampled_from(texts or ['id']))}", n=f"a.{draw(st.sampled_from(numbers))}"
    )
    other = pick(right, "b")
    kind = draw(st.sampled_from(["JOIN", "LEFT JOIN"]))
    condition = draw(
        st.sampled_from(
            ["", f" WHERE {pick(left, 'a')} IS NOT NULL", " WHERE a.id < 200",
             f" WHERE a.id IN (SELECT id FROM {right})", f" WHERE NOT EXISTS (SELECT 1 FROM {right} b WHERE {on})",
             f" WHERE (SELECT COUNT(*) FROM {right} b WHERE {on}) > 1",
             " WHERE 1000 / (a.id - 11) > 2"]
        )
    )  # fmt: skip
    whole = f"{left} AS a{condition}"
    both = f"{left} AS a {kind} {right} AS b ON {on}"
    shapes = [
        f"SELECT a.id, {shown} AS x FROM {whole} ORDER BY 1, 2",
        f"SELECT {shown} AS x, COUNT(*) AS n, SUM(a.id) AS s FROM {whole} GROUP BY {shown} ORDER BY 1, 2, 3",
        f"WITH c AS (SELECT a.id, {shown} AS x FROM {whole}) "
        "SELECT COUNT(*) AS n, COUNT(DISTINCT x) AS d, MIN(id) AS m FROM c ORDER BY 1, 2, 3",
        f"SELECT a.id FROM {whole} UNION SELECT b.id FROM {right} AS b ORDER BY 1",
        f"SELECT a.id, {shown} AS x, ROW_NUMBER() OVER (ORDER BY a.id) AS r FROM {whole} ORDER BY 1, 2, 3",
        f"SELECT q.x, COUNT(*) AS n FROM (SELECT {shown} AS x FROM {both}) AS q GROUP BY q.x ORDER BY 1, 2",
        f"SELECT a.* FROM {whole} ORDER BY 1",
        f"SELECT a.id, (SELECT MAX({other}) FROM {right} AS b WHERE {on}) AS m FROM {whole} ORDER BY 1, 2",
    ]
    if "EXISTS" not in condition and "COUNT" not in condition:
        shapes.append(f"SELECT a.id, b.id AS o, {shown} AS x, {other} AS y FROM {both}{condition} ORDER BY 1, 2, 3, 4")
    return draw(st.sampled_from(shapes))


@settings(max_examples=10, deadline=None, suppress_health_check=list(HealthCheck))
@given(sql=queries())
def test_restricted_is_as_if_the_rest_were_not_there(sql: str, sides: tuple[Side, Side]) -> None:
    restricted, cut = sides
    got, wanted = restricted.answer(sql), cut.answer(sql)
    assert got == wanted, restricted.ruled(sql)


NESTED = (
    ("WITH b AS (SELECT 1 AS id), c AS (WITH b AS (SELECT 99 AS id) SELECT id FROM b) "
     "SELECT b.id AS x, c.id AS y FROM b CROSS JOIN c", ("1", "99")),
    ("WITH b AS (SELECT 1 AS id), h AS (SELECT id FROM b), c AS (WITH b AS (SELECT 99 AS id) "
     "SELECT h.id AS x, b.id AS y FROM h CROSS JOIN b) SELECT x, y FROM c", ("1", "99")),
    ("WITH vessel AS (WITH vessel AS (WITH vessel AS (SELECT 3 AS n) SELECT n + 1 AS n FROM vessel) SELECT n + 1 AS n "
     "FROM vessel) SELECT n, (WITH vessel AS (SELECT 7 AS n) SELECT n FROM vessel) AS m FROM vessel", ("5", "7")),
    ("WITH RECURSIVE b AS (SELECT 1 AS n UNION ALL SELECT n + 1 FROM b WHERE n < 4), c AS (WITH RECURSIVE b AS "
     "(SELECT 10 AS n UNION ALL SELECT n + 10 FROM b WHERE n < 40) SELECT MAX(n) AS n FROM b) "
     "SELECT MAX(b.n) AS x, MAX(c.n) AS y FROM b CROSS JOIN c", ("4", "40")),
    # An inner one that reads the outer one of its own name.
    ("WITH b AS (SELECT 2 AS n) SELECT n, (WITH b AS (SELECT n * 5 AS n FROM b) SELECT MAX(n) FROM b) AS m FROM b",
     ("2", "10")),
)  # fmt: skip
# MariaDB 10.11 ends by itself over these as they stand.
ENDS_MARIADB = [
    f"{before}SELECT COUNT(*) AS n FROM (WITH h AS (SELECT v.id FROM ({name} AS v CROSS JOIN {name} AS d)), c AS (WITH "
    f"{name} AS (SELECT h.id FROM h), c2 AS (SELECT h.id FROM h) SELECT v.id FROM harbour AS v) SELECT v.id FROM "
    "harbour AS v JOIN c ON c.id = v.id LEFT JOIN c AS d ON d.id = v.id) AS q"
    for before, name in (("", "vessel"), ("WITH b AS (SELECT id FROM vessel) ", "b"))
]


def test_ctes_of_one_name_are_each_where_they_are_known(sides: tuple[Side, Side]) -> None:
    """MariaDB takes the outer one for the inner one; what runs gives each a name of its own."""
    for side in sides:
        for sql, row in NESTED:
            ruled = side.ruled(sql)
            assert ruled.statement is not None, (sql, ruled.findings)
            (tree,) = parse(ruled.statement.sql, side.whole.engine)
            names = [cte.alias.casefold() for cte in tree.find_all(exp.CTE)]
            assert len(names) == len(set(names)), ruled.statement.sql
            answer = side.answer(sql)
            # MariaDB may lose sight of an outer one from within, which it says.
            lost = answer == ("error: statement", []) and side.whole.engine == "mariadb" and row == ("2", "10")
            assert lost or answer == ("rows", [row]), ruled.statement.sql
        for sql in (
            "WITH b AS (SELECT 1 AS n), b AS (SELECT 2 AS n) SELECT n FROM b",
            'WITH "B" AS (SELECT 1 AS n), b AS (SELECT 2 AS n) SELECT n FROM "B"',
            'WITH b AS (SELECT 1 AS n) SELECT (WITH "B" AS (SELECT 2 AS n) SELECT n FROM b) AS n FROM b',
        ):
            quoted = sql.replace('"', "`") if side.whole.engine == "mariadb" else sql
            assert side.answer(quoted) == ("refused: unresolvable", []), quoted
        for sql in ENDS_MARIADB:
            assert side.answer(sql)[0] in ("rows", "error: statement"), side.ruled(sql)
            assert side.answer("SELECT 1 AS n") == ("rows", [("1",)])


@settings(max_examples=15, deadline=None, suppress_health_check=list(HealthCheck))
@given(made=nested())
def test_names_mean_the_same_on_every_engine(made: tuple[str, int], sides: tuple[Side, Side]) -> None:
    sql, number = made
    answer = sides[1].answer(sql)
    # MariaDB may lose sight of an outer one from within, which it says; and what each level reads twice may be too much
    # for SQLite, which works it out anew each time and says that.
    lost = answer == ("error: statement", []) and sides[1].whole.engine == "mariadb"
    lost = lost or answer in (("error: memory", []), ("error: time", []))
    assert lost or answer == ("rows", [(f"{number:.6g}",)]), sides[1].ruled(sql)


MASKED = (
    "SELECT UPPER(email), COUNT(*) FROM customer GROUP BY UPPER(email)",
    "SELECT CASE WHEN email LIKE '%@%' THEN 'mail' ELSE 'none' END AS k, COUNT(*) FROM customer GROUP BY 1",
    "SELECT id, LAG(email) OVER (ORDER BY id) AS before_it FROM customer ORDER BY id",
    "SELECT COUNT(*) FROM customer WHERE email LIKE 'a%'",
    "SELECT COUNT(*) FROM customer AS a JOIN customer AS b ON a.email = b.email",
    "SELECT MIN(email), MAX(email), COUNT(DISTINCT email) FROM customer",
    "SELECT COUNT(*) FROM customer WHERE joined_on >= '2026-01-01'",
    "SELECT COUNT(*) FROM customer WHERE joined_on IS NULL",
    "SELECT x.mail FROM (SELECT email || '!' AS mail FROM customer) AS x ORDER BY 1",
    "WITH m AS (SELECT email AS e FROM customer) SELECT COUNT(DISTINCT e) FROM m",
)


def test_masks_hold_through_expressions(sides: tuple[Side, Side]) -> None:
    restricted, cut = sides
    joined = {"mariadb": "GROUP_CONCAT(email SEPARATOR '')", "postgresql": "STRING_AGG(email, '')"}
    last = f"SELECT {joined.get(restricted.whole.engine, 'GROUP_CONCAT(email)')} FROM customer"
    for sql in (*MASKED, last):
        kind, rows = restricted.answer(sql)
        assert kind == "rows", (sql, kind)
        assert (kind, rows) == cut.answer(sql), sql
        assert "@" not in str(rows), sql


def test_no_error_tells_of_a_forbidden_row(sides: tuple[Side, Side]) -> None:
    """On PostgreSQL a division that fails for a forbidden row would say that it is there: the barrier keeps it out."""
    restricted, _ = sides
    everybody = Side(Policy(withhold_delicate=False, limits=LIMITS), Person(), restricted.whole, restricted.sandbox)
    mine = {row for (row,) in restricted.answer("SELECT id FROM customer")[1]}
    hidden = [row for (row,) in everybody.answer("SELECT id FROM customer ORDER BY id")[1] if row not in mine]
    assert len(hidden) > 20
    for sql in ("SELECT COUNT(*) FROM customer WHERE 1 / (id - {0}) > -9",
                "SELECT COUNT(*) FROM booking b JOIN customer c ON c.id = b.customer_id AND 1 / (c.id - {0}) > -9",
                "SELECT MAX(1 / (c.id - {0})) FROM customer c WHERE c.id < 9999"):  # fmt: skip
        for row in hidden[:3]:
            assert restricted.answer(sql.format(row))[0] == "rows", sql
            if restricted.whole.engine == "postgresql":
                assert everybody.answer(sql.format(row))[0] == "error: statement", sql


def test_views_exist_for_restricted_people_only_with_a_rule_of_their_own(sides: tuple[Side, Side]) -> None:
    restricted, _ = sides
    assert restricted.answer("SELECT COUNT(*) FROM route_day")[0] == "refused: unknown-table"
    allowed = POLICY.model_copy(
        update={"rows": (*POLICY.rows, RowRule(table="route_day", where="day >= '2026-09-01'"))}
    )
    side = Side(allowed, CLERK, restricted.whole, restricted.sandbox)
    ((days,),) = side.answer("SELECT MIN(day) >= '2026-09-01' FROM route_day")[1]
    assert float(days in ("1", "True"))


def test_a_value_that_is_missing_refuses_and_one_with_quotes_is_a_text(sides: tuple[Side, Side]) -> None:
    restricted, _ = sides
    nobody = Side(POLICY, Person("Bo"), restricted.whole, restricted.sandbox)
    ruled = nobody.ruled("SELECT COUNT(*) FROM customer")
    assert (ruled.ruling.verdict, ruled.ruling.policy_line) == ("refuse", "rows[0].where")
    assert "islands" in ruled.ruling.reason
    sly = Person("Bo", values={"islands": ("x') OR 1 = 1 --", "\\"), "level": 1})
    trick = Side(POLICY, sly, restricted.whole, restricted.sandbox)
    assert trick.answer("SELECT COUNT(*) FROM customer") == ("rows", [("0",)])
    head = Person("Cy", frozenset({"head-office"}), {"islands": "Marrow", "level": 5})
    assert Side(POLICY, head, restricted.whole, restricted.sandbox).answer("SELECT COUNT(*) FROM customer") != (
        "rows", [("0",)],
    )  # fmt: skip


def test_nothing_read_ahead_is_left_of_what_is_restricted(sides: tuple[Side, Side]) -> None:
    visible = Terms(POLICY, CLERK).visible(sides[0].whole)
    for name in ("customer", "booking", "incident", "vessel"):
        table = visible.table(name)
        assert table is not None
        assert table.row_count is None
        assert all(c == c.unprofiled() for c in table.columns)
    harbour = visible.table("harbour")
    assert harbour is not None
    assert any(c.samples for c in harbour.columns)


def test_honest_queries_are_answered_as_if_the_rest_were_not_there(sides: tuple[Side, Side]) -> None:
    """A fifth of the corpus, in many writers' styles; what cuts off rows that are level may cut off others."""
    restricted, cut = sides
    compared, differ = 0, []
    for sql in honest(restricted.whole.engine)[::5]:
        got = restricted.answer(sql)
        if got[0].startswith("refused: unknown-table") and "route_day" in sql:
            continue  # a view without a rule of its own
        wanted = cut.answer(sql)
        compared += 1
        ordered = "LIMIT" not in sql.upper() and "OVER" not in sql.upper()
        if got[0] != wanted[0] or (ordered and Counter(got[1]) != Counter(wanted[1])) or len(got[1]) != len(wanted[1]):
            differ.append((sql, got[0], wanted[0], got[1][:2], wanted[1][:2]))
    assert differ == [], "\n".join(map(str, differ))
    assert compared > 50


PAST_THE_RULE = (
    "SELECT COUNT(DISTINCT b.id) AS n FROM (customer a CROSS JOIN customer b)",
    "SELECT COUNT(DISTINCT b.email) AS n FROM (harbour a JOIN customer b ON 1=1)",
    "SELECT COUNT(DISTINCT c.id) AS n FROM ((harbour a CROSS JOIN harbour b) JOIN customer c ON 1 = 1)",
    "SELECT COUNT(DISTINCT c.id) AS n FROM (customer a CROSS JOIN (harbour b CROSS JOIN customer c))",
    "SELECT COUNT(DISTINCT c.id) AS n FROM harbour h CROSS JOIN (harbour b CROSS JOIN customer c)",
    "WITH harbour AS (SELECT id, 'Marrow' AS island FROM vessel UNION SELECT id, 'Marrow' FROM sailing) "
    "SELECT COUNT(*) AS n FROM customer",
    "WITH x AS (SELECT COUNT(*) AS n FROM customer), harbour AS (SELECT 1 AS id, 'Marrow' AS island) SELECT n FROM x",
    "SELECT n FROM (WITH harbour AS (SELECT id, 'Ember' AS island FROM booking) SELECT COUNT(*) AS n FROM customer) q",
    "WITH customer AS (SELECT id FROM customer) SELECT COUNT(*) AS n FROM customer",
)


def test_no_parenthesis_and_no_name_of_a_cte_leads_past_a_rule(sides: tuple[Side, Side]) -> None:
    restricted, cut = sides
    for sql in PAST_THE_RULE:
        got, wanted = restricted.answer(sql), cut.answer(sql)
        # SQLite reads a join inside a parenthesised join whole, so that columns nobody named are asked for.
        nested = restricted.whole.engine == "sqlite" and "JOIN (" in sql
        assert got[0] == ("error: denied" if nested else "rows"), (sql, got, restricted.ruled(sql).findings)
        assert got == wanted or nested, sql


def test_a_name_with_its_schema_means_the_table_and_not_a_cte(sides: tuple[Side, Side]) -> None:
    restricted, _ = sides
    schema = restricted.whole.default_schema
    ((n,),) = restricted.answer(f"WITH harbour AS (SELECT 1 AS id) SELECT COUNT(*) AS n FROM {schema}.harbour")[1]
    assert int(n) > 1


def test_the_sandbox_alone_lets_nobody_past_a_rule(sides: tuple[Side, Side]) -> None:
    """The second line: texts that the guard would have to have let through by mistake."""
    restricted, _ = sides
    honest_one = restricted.ruled("SELECT COUNT(*) AS n FROM customer AS c JOIN booking AS b ON b.customer_id = c.id")
    assert honest_one.statement is not None
    through, reads = honest_one.statement.seen_through, honest_one.statement.reads
    assert through is not None
    assert restricted.sandbox.test_door(through.sql, reads, through)["rows"][0][0] > 0
    place, through_it = f"{restricted.whole.default_schema}.", []
    for sql in ("SELECT COUNT(*) FROM {0}customer", "SELECT name FROM {0}customer WHERE id = 5",
                "SELECT 1 FROM {0}customer", "SELECT MIN(id) FROM {0}customer",
                "SELECT b.id FROM ({0}harbour a CROSS JOIN {0}customer b)",
                "WITH c AS (SELECT id FROM {0}customer) SELECT COUNT(*) FROM c",
                "SELECT (SELECT MAX(id) FROM {0}customer) AS m",
                "SELECT id FROM {0}harbour WHERE EXISTS (SELECT 1 FROM {0}customer AS c WHERE c.id > 5)",
                # A subquery that is cheap is run while the statement is being read, and is gone from what was read.
                "SELECT EXISTS (SELECT 1 FROM {0}customer WHERE id > 5) AS m",
                "SELECT id FROM {0}harbour WHERE NOT EXISTS (SELECT 1 FROM {0}customer AS c WHERE c.id > 999999)",
                "SELECT id FROM {0}harbour WHERE 5 IN (SELECT id FROM {0}customer)",
                "SELECT id FROM {0}harbour WHERE 'x' < (SELECT MAX(name) FROM {0}customer)",
                "SELECT CASE WHEN EXISTS (SELECT 1 FROM {0}customer WHERE id = 5) THEN 1 ELSE 2 END AS m",
                "SELECT COUNT(*) FROM {0}harbour HAVING EXISTS (SELECT 1 FROM {0}customer WHERE id = 7)",
                "SELECT id FROM {0}harbour ORDER BY EXISTS (SELECT 1 FROM {0}customer WHERE id = 5)",
                "SELECT id FROM {0}harbour UNION SELECT id FROM {0}customer"):  # fmt: skip
        for text in {sql.format(place), sql.format("" if restricted.whole.engine != "postgresql" else place)}:
            try:
                rows = restricted.sandbox.test_door(text, reads, through)["rows"]
            except SandboxError as error:
                assert error.fault == "denied", (text, error)
            else:
                through_it.append((text, rows[:3]))
    assert through_it == []


def test_a_maze_of_parentheses_shadows_and_sets_leads_nowhere(sides: tuple[Side, Side]) -> None:
    """Some of them; `make breach` throws 20,000 an engine."""
    report = run_maze(sides[0].whole.engine, sides, 25, 60, seed=11)
    assert report.escapes == {}
    assert report.stumbles == 0
    assert report.verdicts["rows"] > report.count / 2


def test_the_proof_asks_for_schemas_and_tells_tables_of_two_schemas_apart() -> None:
    """A wrapper whose table a CTE could stand in for proves nothing; a table of another schema is another one."""
    column = Column("id", "integer", False)
    tables = tuple(Table(n, "table", (column,), schema=s) for n, s in (("crew", ""), ("old.crew", "old"), ("kin", "")))
    catalog = Catalog("postgresql", tables, "x", dt.datetime(2026, 9, 14, tzinfo=dt.UTC), "public")
    terms = Terms(Policy(rows=(RowRule(table="crew", where="id IN (SELECT id FROM kin)"),)))
    restricted = restricted_tables(terms, catalog)
    inside = "SELECT id FROM {0}crew WHERE id IN (SELECT id FROM {1}kin) OFFSET 0"
    for sql, proved in (
        (f"SELECT id FROM ({inside.format('public.', 'public.')}) AS c", True),
        (f"SELECT id FROM ({inside.format('', 'public.')}) AS c", False),
        (f"SELECT id FROM ({inside.format('public.', '')}) AS c", False),
        ("SELECT id FROM (SELECT id FROM public.crew WHERE id = 1 OFFSET 0) AS c", False),
        ("SELECT id FROM (SELECT id FROM public.crew OFFSET 0) AS c", False),
        ("SELECT id FROM old.crew AS c", True),
        ("SELECT id FROM crew AS c", False),
        (f"SELECT id FROM (public.kin AS a CROSS JOIN ({inside.format('public.', 'public.')}) AS c)", True),
        (f"SELECT 1 FROM (({inside.format('public.', 'public.')}) AS c CROSS JOIN public.crew AS d)", False),
    ):
        (tree,) = parse(sql, "postgresql")
        if proved:
            prove(tree, terms, catalog, restricted)
        else:
            with pytest.raises(Unproved):
                prove(tree, terms, catalog, restricted)
