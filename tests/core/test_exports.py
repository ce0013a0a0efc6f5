"""Answers as files, opened again by other libraries: every value is what it was, and nothing in them is carried out."""

from __future__ import annotations

import csv
import io
import json
import math
import re
from html.parser import HTMLParser
from typing import Any

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from harquel.contract import Answer, Caveat, Form, Inquiry, ReadLine, ResultColumn, ResultTable
from harquel.core.answers.exports import exported
from harquel.testing.sources import NOW

HOSTILE = [
    "=1+1",
    "+cmd",
    "-2+3",
    "@SUM(A1)",
    "\t=1",
    "＝1",
    "<script>alert(1)</script>",
    "| a | `b` | **c**",
    "a\nb",
    "🛳",
]


def inquiry(columns: list[tuple[str, str]], rows: list[list[Any]], caveat: str = "It is a guess.") -> Inquiry:
    made = [ResultColumn(name=n, type=t, decimals=2 if t == "number" else None) for n, t in columns]
    table = ResultTable(columns=made, rows=rows, row_count=len(rows))
    answer = Answer(
        text="Revenue by routes: <b>QH-SR</b> is highest.", sql="SELECT '```' AS code", table=table,
        caveats=[Caveat(rule="guess", message=caveat)], lines=[ReadLine(label="Counted", text="sailing")],
    )  # fmt: skip
    return Inquiry(
        id="q1", state="ended", outcome="answered", trust="caution", source="ferries", asked_by="Ada Brinewell",
        question="=Which routes?", asked_at=NOW, as_of=NOW, answer=answer,
    )  # fmt: skip


ROWS = [[text, -12.5, 7, "12345678901234567890.25"] for text in HOSTILE] + [["", None, None, None]]
COLUMNS = [("route", "text"), ("revenue", "number"), ("=n", "integer"), ("exact", "decimal")]


def test_csv_holds_the_rows_and_no_formula() -> None:
    text = exported(inquiry(COLUMNS, ROWS), "csv").content.decode("utf-8-sig")
    head, *rows = csv.reader(io.StringIO(text, newline=""))
    assert head == ["route", "revenue", "'=n", "exact"]
    assert [row[0].removeprefix("'") for row in rows] == [str(row[0]) for row in ROWS]
    assert not [cell for row in [head, *rows] for cell in row if cell[:1] in "=+@\t" and cell]
    # Numbers are numbers, with their sign and all of their digits.
    assert rows[0][1:] == ["-12.5", "7", "12345678901234567890.25"]
    assert rows[-1] == ["", "", "", ""]


def test_a_workbook_holds_values_of_their_kind_and_the_grounds_on_another_sheet() -> None:
    book = openpyxl.load_workbook(io.BytesIO(exported(inquiry(COLUMNS, ROWS), "xlsx").content))
    sheet, told = book["Result"], book["Grounds"]
    assert not [c for s in (sheet, told) for line in s.iter_rows() for c in line if c.data_type == "f"]
    values = list(sheet.iter_rows(values_only=True))
    assert values[0] == ("route", "revenue", "=n", "exact")
    assert [v[0] for v in values[1:-1]] == HOSTILE
    # What a spreadsheet would round stays the text that it is.
    assert values[1][1:] == (-12.5, 7, "12345678901234567890.25")
    assert values[-1] == ("", None, None, None) or values[-1] == (None, None, None, None)
    grounds = {line[0]: line[1] for line in told.iter_rows(values_only=True)}
    assert (grounds["Question"], grounds["Trust"], grounds["SQL"]) == (
        "=Which routes?",
        "caution",
        "SELECT '```' AS code",
    )
    assert (grounds["Caveat"], grounds["Counted"]) == ("It is a guess.", "sailing")


def test_json_holds_all_of_it() -> None:
    made = json.loads(exported(inquiry(COLUMNS, ROWS), "json").content)
    assert made["rows"] == ROWS
    assert (made["question"], made["source"], made["trust"]) == ("=Which routes?", "ferries", "caution")


class _Page(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.tags: list[str] = []
        self.cells: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.append(tag)
        assert not {name for name, _ in attrs} & {"src", "href", "onclick", "onload"}
        if tag == "td":
            self.cells.append("")

    def handle_data(self, data: str) -> None:
        if self.tags[-1:] == ["td"]:
            self.cells[-1] += data


def test_a_page_stands_by_itself_and_carries_nothing_out() -> None:
    text = exported(inquiry(COLUMNS, ROWS, caveat="<img src=x onerror=y>"), "html").content.decode()
    page = _Page()
    page.feed(text)
    assert not {"script", "img", "link", "iframe", "b"} & set(page.tags)
    assert page.cells[:: len(COLUMNS)][: len(HOSTILE)] == HOSTILE
    assert "http" not in text.replace("http-equiv", "")


def test_markdown_keeps_its_table_whatever_stands_in_the_cells() -> None:
    text = exported(inquiry(COLUMNS, ROWS), "md").content.decode()
    rows = [line for line in text.splitlines() if line.startswith("|")]
    assert len(rows) == len(ROWS) + 2
    assert {len(re.findall(r"(?<!\\)\|", line)) for line in rows} == {len(COLUMNS) + 1}
    assert "````sql" in text
    assert "<script>" not in text


CELLS = st.one_of(
    st.none(), st.booleans(), st.integers(), st.floats(), st.text(), st.decimals().map(str),
    st.text(alphabet=st.characters(codec=None), max_size=5),
)  # fmt: skip


@settings(max_examples=120, deadline=None)
@given(
    rows=st.lists(st.lists(CELLS, min_size=2, max_size=2), max_size=4),
    form=st.sampled_from(["csv", "xlsx", "md", "html"]),
)
@pytest.mark.parametrize("kind", ["text", "number", "integer"])
def test_whatever_stands_in_the_rows_a_file_is_made_that_can_be_read(
    kind: str, rows: list[list[Any]], form: Form
) -> None:
    content = exported(inquiry([("a", kind), ("b", "decimal")], rows), form).content
    if form != "xlsx":
        assert content.decode("utf-8-sig")
        return
    sheet = openpyxl.load_workbook(io.BytesIO(content))["Result"]
    values = list(sheet.iter_rows(min_row=2, values_only=True))
    for row, found in zip(rows, values, strict=False):
        number = isinstance(row[0], int | float) and not isinstance(row[0], bool) and math.isfinite(row[0])
        if number and kind == "number" and abs(row[0]) < 1e14:
            assert math.isclose(float(found[0]), row[0], rel_tol=1e-12, abs_tol=1e-300)
