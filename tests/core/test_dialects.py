"""What is particular about each engine's SQL; what comes of it on real databases is tested elsewhere."""

from __future__ import annotations

import pytest
from sqlglot import exp
from sqlglot.errors import ParseError

from harquel.core.engines import ENGINES
from harquel.core.guard.allowed import KINDS, NAMES, TABLE_FUNCTIONS, TYPES
from harquel.core.sql.dialects import DIALECTS, MOST_TOKENS
from harquel.core.sql.tree import identifier, quoted, render

ALL = tuple(DIALECTS)


def read(engine: str, text: str) -> exp.Expr:
    (tree,) = DIALECTS[engine].read(text)
    assert tree is not None
    return tree


def again(engine: str, text: str) -> str:
    return render(read(engine, text), engine)


def test_every_engine_has_one_and_the_guard_has_lists_for_each() -> None:
    for lists in (KINDS, NAMES, TABLE_FUNCTIONS, TYPES):
        assert set(lists) == set(DIALECTS) == set(ENGINES)


@pytest.mark.parametrize("engine", ALL)
def test_a_name_cannot_close_its_marks(engine: str) -> None:
    dialect = DIALECTS[engine]
    for name in ("a b", 'x"; DROP TABLE t --', "y`; DROP TABLE t --", 'both"`', "ü", "select"):
        tree = read(engine, f"SELECT 1 AS {quoted(name, engine)}")
        assert tree.expressions[0].alias == name
        assert render(exp.select(exp.alias_(exp.Literal.number(1), identifier(name))), engine) == render(tree, engine)
        assert dialect.quoted(name).count(dialect.quote) % 2 == 0
    assert quoted("plain_1", engine) == "plain_1"


@pytest.mark.parametrize("engine", ALL)
def test_functions_keep_the_names_that_they_were_written_with(engine: str) -> None:
    for text in ("SELECT IFNULL(a, 1)", "SELECT SUBSTR(a, 1, 2)", "SELECT POW(a, 2)", "SELECT NO_SUCH_THING(a, b)"):
        assert again(engine, text) == text
    total, left = read(engine, "SELECT SUM(a), LEFT(b, 1)").expressions
    assert (type(total), left.name) == (exp.Sum, "LEFT")


@pytest.mark.parametrize("engine", ALL)
def test_what_no_statement_needs_is_not_read(engine: str) -> None:
    with pytest.raises(ParseError, match="words and signs"):
        DIALECTS[engine].read("SELECT " + ", ".join("1" for _ in range(MOST_TOKENS)))
    with pytest.raises(ParseError, match="no statement needs"):
        DIALECTS[engine].read("SELECT \ue000COUNT(*)")


def test_comments_that_are_carried_out_are_not_read_where_they_are() -> None:
    for text in ("SELECT 1 /*!50000 UNION SELECT 2 */", "SELECT 1 /*M! + 1 */", "SELECT /* ! */ 1 /*m!x*/"):
        with pytest.raises(ParseError, match="carry out"):
            DIALECTS["mariadb"].read(text)
    assert again("sqlite", "SELECT 1 /*! + 1 */") == "SELECT 1"


@pytest.mark.parametrize(
    ("text", "sql"),
    [
        ("SELECT a || b FROM t", "SELECT CONCAT(a, b) FROM t"),
        ("SELECT 'x' || a || 'y' FROM t", "SELECT CONCAT('x', a, 'y') FROM t"),
        ("SELECT 1 FROM t WHERE a = 1 || b = 2", "SELECT 1 FROM t WHERE a = 1 OR b = 2"),
    ],
)
def test_two_bars_are_read_as_they_are_meant_on_mariadb(text: str, sql: str) -> None:
    assert again("mariadb", text) == sql


@pytest.mark.parametrize("text", ["SELECT a || (b = 1) FROM t", "SELECT (a | b) || c FROM t"])
def test_two_bars_that_could_be_either_are_not_read(text: str) -> None:
    with pytest.raises(ParseError):
        DIALECTS["mariadb"].read(text)


@pytest.mark.parametrize(
    ("engine", "text", "sql"),
    [
        ("sqlite", "SELECT CAST(a AS DECIMAL(10, 2))", "SELECT CAST(a AS NUMERIC)"),
        ("sqlite", "SELECT CAST(a AS VARCHAR(9))", "SELECT CAST(a AS TEXT)"),
        ("postgresql", "SELECT CAST(a AS DECIMAL(10, 2))", "SELECT CAST(a AS DECIMAL(10, 2))"),
        ("postgresql", "SELECT $$it's$$", "SELECT 'it''s'"),
        ("postgresql", "SELECT a FROM t FETCH FIRST 3 ROWS ONLY", "SELECT a FROM t LIMIT 3"),
        ("mariadb", "SELECT TIMESTAMPDIFF(DAY, a, b)", "SELECT TIMESTAMPDIFF(DAY, a, b)"),
        ("mariadb", "SELECT a REGEXP 'x'", "SELECT REGEXP_INSTR(a, 'x') > 0"),
        ("mariadb", "SELECT GROUP_CONCAT(a)", "SELECT GROUP_CONCAT(a SEPARATOR ',')"),
    ],
)
def test_what_the_library_would_write_otherwise_is_kept(engine: str, text: str, sql: str) -> None:
    assert again(engine, text) == sql


@pytest.mark.parametrize(
    ("engine", "sql"),
    [
        ("sqlite", "SELECT a FROM t LIMIT -1"), ("postgresql", "SELECT a FROM t OFFSET 0"),
        ("mariadb", "SELECT a FROM t LIMIT 18446744073709551615"),
    ],
)  # fmt: skip
def test_a_wall_lets_all_rows_through(engine: str, sql: str) -> None:
    select = read(engine, "SELECT a FROM t")
    assert isinstance(select, exp.Select)
    DIALECTS[engine].wall(select)
    assert render(select, engine) == sql


def test_the_same_is_the_same_but_for_marks_on_mariadb_only() -> None:
    for engine in ALL:
        name = DIALECTS[engine].quoted("rank_")
        bare, marked = read(engine, "SELECT rank_ FROM t"), read(engine, f"SELECT {name} FROM t")
        assert DIALECTS[engine].same(bare, bare.copy())
        assert DIALECTS[engine].same(bare, marked) is (engine == "mariadb")
        assert not DIALECTS[engine].same(bare, read(engine, "SELECT rank_ FROM u"))
