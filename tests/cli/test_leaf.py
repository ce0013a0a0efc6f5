"""An inquiry on a terminal: every outcome, long texts, many rows, in a hundred columns at most."""

from __future__ import annotations

import io

import pytest
from rich.console import Console

from harquel.cli.laid_out import laid_out
from harquel.cli.layers import layers
from harquel.cli.leaf import result_table, stop
from harquel.client import StreamEvent
from harquel.contract import Answer, Caveat, Inquiry, ProblemNote, ResultColumn, ResultTable
from harquel.testing.sources import NOW


def shown(thing: object) -> str:
    out = io.StringIO()
    Console(file=out, width=100, highlight=False, color_system=None).print(thing)
    return out.getvalue()


def leaf(shown: Inquiry, told: list[StreamEvent]) -> object:
    return layers(shown, told, with_grounds=True, with_trail=True, question=True)


def inquiry(**fields: object) -> Inquiry:
    base = {
        "id": "a1",
        "state": "ended",
        "source": "ferries",
        "question": "Q?",
        "asked_by": "Ada",
        "asked_at": NOW,
        "as_of": NOW,
    }
    return Inquiry.model_validate({**base, **fields})


def table(rows: list[list[object]], cut: str | None = None) -> ResultTable:
    columns = [ResultColumn(name="name", type="text"), ResultColumn(name="eur", type="number", unit="EUR")]
    return ResultTable.model_validate({"columns": columns, "rows": rows, "row_count": len(rows), "cut_by": cut})


def event(kind: str, number: int = 1, **facts: object) -> StreamEvent:
    return StreamEvent(kind, 1, {"number": number, **facts}, {}, "2026-09-14T10:00:00+00:00")


@pytest.mark.parametrize(
    ("outcome", "word"),
    [
        ("refused", "■ refused"),
        ("unanswerable", "○ not in the data"),
        ("failed", "✕ failed"),
        ("cancelled", "– cancelled"),
    ],
)
def test_ends_without_an_answer(outcome: str, word: str) -> None:
    problem = ProblemNote(type="x", title="It cannot be.", hint="Do something else.", policy_line="limits.rows")
    text = shown(leaf(inquiry(outcome=outcome, problem=problem), []))
    for part in (word, "It cannot be.", "Do something else.", "policy: limits.rows", "as of 2026-09-14 10:00 UTC"):
        assert part in text
    assert "grounds" not in text


def test_an_answer_with_doubts_says_them_under_the_mark() -> None:
    answer = Answer(
        text="7 rows.", caveats=[Caveat(rule="result-cut", message="It was cut.")], sql="SELECT 1", table=table([])
    )
    text = shown(leaf(inquiry(outcome="answered", trust="caution", answer=answer), []))
    assert text.index("▲ caution") < text.index("▲ It was cut.") < text.index("grounds")
    assert "no rows" in text


def test_long_texts_wrap_and_many_rows_are_counted() -> None:
    rows = [["word " * 60, 1.5]] + [[f"n{i}", float(i)] for i in range(40)]
    answer = Answer(
        text="long " * 80, sql="SELECT " + "a, " * 200 + "b", explanation="because " * 40, table=table(rows, "rows")
    )
    text = shown(leaf(inquiry(question="why " * 100, outcome="answered", trust="clear", answer=answer), []))
    assert max(map(len, text.splitlines())) <= 100
    assert "and 29 more rows" in text
    assert "cut by the limit on rows" in text


def test_markup_in_the_data_is_shown_as_it_is() -> None:
    text = shown(result_table(table([["[bold]not bold[/bold]", 1.0]])))
    assert "[bold]not bold[/bold]" in text


STOPS = {
    "briefed": ({"tables": ["a", "b"], "examples": 1, "tokens": 1234}, "2 tables, 1 example, about 1,234 tokens"),
    "replied": ({"completion_tokens": 12}, "12 tokens"),
    "planned": ({"steps": ["SCAN a"]}, "1 step"),
    "ran": ({"row_count": 1, "elapsed_ms": 2.34}, "1 row in 2.3 ms"),
    "ruled": ({"on": "text", "verdict": "run", "policy_line": "p", "reason": "Fine."}, "run (p) Fine."),
    "found": ({"findings": [{"message": "A."}, {"message": "A."}, {"message": "B."}]}, "A. B."),
    "ended": ({"outcome": "answered", "trust": "clear"}, "answered, clear"),
    "something-new": ({}, ""),
}


@pytest.mark.parametrize("kind", STOPS)
def test_stops(kind: str) -> None:
    facts, text = STOPS[kind]
    assert stop(event(kind, **facts))[2] == text


def test_a_second_call_of_the_model_is_a_way_back() -> None:
    assert stop(event("prompted", 1, model="careful"))[0] == "●"
    assert stop(event("prompted", 2, model="careful"))[0] == "↺"


def test_an_answer_alone_is_short_and_says_where_the_rest_is() -> None:
    one = ResultTable(columns=[ResultColumn(name="n", type="integer")], rows=[[12]], row_count=1)
    alone = shown(
        layers(
            inquiry(outcome="answered", trust="clear", answer=Answer(text="12.", sql="SELECT 1", table=one)),
            [],
            False,
            False,
        )
    )
    assert [line.strip() for line in alone.splitlines() if line.strip()] == [
        "12.", "● clear  ·  ferries  ·  as of 2026-09-14 10:00 UTC", "Why: harquel inquiry show a1 --all"
    ]  # fmt: skip


def test_figures_that_are_drawn_have_bars_in_the_order_of_the_picture() -> None:
    chart = {"kind": "bars", "title": "T", "along": 0, "figures": [1], "order": "largest"}
    rows: list[list[object]] = [["b", 50], ["a", 100], ["nothing", None]]
    drawn = inquiry(
        outcome="answered", trust="clear", answer={"text": "T", "sql": "SELECT 1", "table": table(rows), "chart": chart}
    )
    lines = [line.split() for line in shown(layers(drawn, [], False, False)).splitlines()]
    assert [line for line in lines if line and line[0] in ("a", "b", "nothing")] == [
        ["a", "100.00", "█" * 24], ["b", "50.00", "█" * 12], ["nothing", "–"]
    ]  # fmt: skip


@pytest.mark.parametrize("below", [[["a", -1], ["b", 2]], [["a", 0], ["b", 0]]])
def test_what_has_no_length_has_no_bar(below: list[list[object]]) -> None:
    chart = {"kind": "bars", "title": "T", "along": 0, "figures": [1]}
    drawn = inquiry(
        outcome="answered",
        trust="clear",
        answer={"text": "T", "sql": "SELECT 1", "table": table(below), "chart": chart},
    )
    assert "█" not in shown(layers(drawn, [], False, False))


@pytest.mark.parametrize(
    ("sql", "lines"),
    [
        ("SELECT name FROM harbour", ["SELECT name FROM harbour"]),
        (
            "SELECT a, (SELECT MAX(b) FROM c WHERE d AND e) AS m FROM f LEFT JOIN g ON g.id = f.id "
            "WHERE h = 'x FROM y' AND i BETWEEN 1 AND 2 ORDER BY a LIMIT 5",
            ["SELECT a, (SELECT MAX(b) FROM c WHERE d AND e) AS m", "FROM f", "  LEFT JOIN g ON g.id = f.id",
             "WHERE h = 'x FROM y'", "  AND i BETWEEN 1 AND 2", "ORDER BY a", "LIMIT 5"],
        ),
    ],
)  # fmt: skip
def test_a_statement_is_laid_out_and_nothing_of_it_changed(sql: str, lines: list[str]) -> None:
    assert laid_out(sql).splitlines() == lines
    assert "".join(laid_out(sql).split()) == "".join(sql.split())
