"""Charts: which is chosen for what shape, what is wished of it, and that each is valid Vega-Lite and can be drawn."""

from __future__ import annotations

import datetime as dt
import json
import re
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from jsonschema import Draft7Validator

from harquel.contract.charts import ChartWish
from harquel.core.answers.charts import (
    Arranged,
    Seen,
    arranged,
    as_read,
    as_they_are,
    redrawn,
    specification,
    without_wish,
)
from harquel.core.answers.charts.drawn import drawn
from harquel.core.answers.charts.look import DARK, LIGHT, Look
from harquel.core.answers.charts.wishes import understood
from harquel.core.answers.sentence import Told
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.chart import Chart, ChartColumn
from harquel.core.domain.inquiry import Answer, ResultColumn, ResultTable
from harquel.core.reading import Reading
from harquel.testing.sources import demo_notes

ROOT = Path(__file__).parents[2]
PAGE = read_yaml((ROOT / "tests" / "data" / "charts.yaml").read_text("utf-8"))
NOW = dt.datetime.fromisoformat(PAGE["now"])
LIBRARY = ROOT / "console" / "node_modules" / "vega-lite"
KINDS = ("line", "bars", "columns", "parts", "points", "grid")
DRAWN = [case for case in PAGE["cases"] if "drawn" in case]


@pytest.fixture(scope="module")
def valid() -> Draft7Validator:
    """The schema of the Vega-Lite that the console draws with."""
    return Draft7Validator(json.loads((LIBRARY / "build" / "vega-lite-schema.json").read_text("utf-8")))


def table_of(case: dict[str, Any]) -> ResultTable:
    roles = case.get("roles", {})
    columns = [
        ResultColumn(
            name=name,
            type=kind,
            unit=rest[0] if rest else None,
            decimals=rest[1] if rest[1:] else None,
            role=roles.get(n),
        )
        for n, (name, kind, *rest) in enumerate(case["columns"])
    ]
    rows = case.get("rows")
    if rows is None:
        made = {"integer": lambda i: i, "text": lambda i: f"QH-{i:02}", "number": lambda i: 7.5 * i}
        rows = [[made[c.type](i) for c in columns] for i in range(case["each"])]
    return ResultTable(columns=columns, rows=rows, row_count=len(rows))


def seen_of(case: dict[str, Any], table: ResultTable) -> Seen:
    if "reading" not in case:
        return as_they_are(table, "en")
    places = {n: n for n in range(len(table.columns))}
    return as_read(Told("", Reading.model_validate(case["reading"]), table, places, demo_notes(), NOW, "en"))


def chosen(case: dict[str, Any], **wish: Any) -> tuple[Arranged, ResultTable]:
    table = table_of(case)
    return arranged(seen_of(case, table), table, ChartWish(**wish), NOW, "en"), table


def chart_of(case: dict[str, Any], **wish: Any) -> tuple[Chart, ResultTable]:
    found, table = chosen(case, **wish)
    assert found.chart is not None, found.note
    return found.chart, table


def by_name(is_: str) -> dict[str, Any]:
    return next(c for c in PAGE["cases"] if c["is"] == is_)


def values_of(spec: dict[str, Any]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = spec["data"]["values"]
    return found


@pytest.mark.parametrize("case", PAGE["cases"], ids=lambda c: c["is"])
def test_what_suits_a_shape(case: dict[str, Any]) -> None:
    found, table = chosen(case)
    if "none" in case:
        assert found.chart is None
        assert case["none"] in found.note
        return
    assert found.chart is not None, found.note
    wanted = {name: value for name, value in case["drawn"].items() if name != "places"}
    assert {name: getattr(found.chart, name) for name in wanted} == wanted
    if "places" in case["drawn"]:
        spec = specification(found.chart, table, "en")
        assert list(dict.fromkeys(v["x"] for v in values_of(spec))) == case["drawn"]["places"]


@pytest.mark.parametrize("case", DRAWN, ids=lambda c: c["is"])
def test_each_kind_that_fits_is_valid_and_can_be_drawn(case: dict[str, Any], valid: Draft7Validator) -> None:
    first, _ = chart_of(case)
    for kind in first.fits:
        chart, table = chart_of(case, kind=kind)
        assert chart.kind == kind
        spec = specification(chart, table, "de" if kind == "bars" else "en", dark=kind == "line", width=400)
        assert not list(valid.iter_errors(spec))
        image = drawn(spec, "svg").decode()
        title = " ".join(spec["title"]["text"])
        assert all(word in image for word in title.split())


def test_what_the_service_draws_with_is_what_the_console_draws_with() -> None:
    version = json.loads((LIBRARY / "package.json").read_text("utf-8"))["version"]
    chart, table = chart_of(by_name("a trend of several"))
    assert drawn(specification(chart, table, "en", width=300), "png").startswith(b"\x89PNG")
    assert version.startswith("6.4.")


def test_what_is_not_over_is_dashed_and_said() -> None:
    chart, table = chart_of(by_name("a trend, its last month under way"))
    spec = specification(chart, table, "en")
    assert [v["x"] for v in values_of(spec) if v.get("open")] == ["September 2026"]
    assert spec["title"]["subtitle"] == ["September 2026 is not over yet."]
    assert [layer["mark"].get("strokeDash") for layer in spec["layer"]] == [None, None, [4, 4], None]


def test_what_is_not_drawn_is_named_and_bars_begin_at_zero() -> None:
    case = {"columns": [["route", "text"], ["n", "integer"]], "rows": [[f"R{n:02}", 1000 + n] for n in range(33)]}
    chart, table = chart_of(case)
    spec = specification(chart, table, "en")
    assert values_of(spec)[0]["x"] == "R32"
    assert len(values_of(spec)) == 20
    assert " ".join(spec["title"]["subtitle"]) == "and 13 more that are not drawn: R12, R11, R10, …"
    assert spec["layer"][0]["encoding"]["x"]["scale"]["domain"][0] == 0
    tall, _ = chart_of(case, kind="columns", top=2)
    assert specification(tall, table, "en")["encoding"]["y"].get("scale") is None


def test_a_line_that_hardly_moves_says_where_its_axis_begins() -> None:
    rows = [[f"2026-0{n}", 1000 + n] for n in range(1, 8)]
    chart, table = chart_of({"columns": [["month", "text"], ["n", "integer"]], "rows": rows})
    spec = specification(chart, table, "de")
    assert spec["title"]["subtitle"] == ["Die Achse beginnt bei 999."]
    assert spec["layer"][0]["encoding"]["y"]["scale"]["domainMin"] == 999


@pytest.mark.parametrize(("kind", "told"), [("line", "drawn as bars"), ("points", "drawn as bars")])
def test_a_wish_that_does_not_fit_is_said(kind: str, told: str) -> None:
    found, _ = chosen(by_name("figures for each of something"), kind=kind)
    assert found.chart is not None
    assert found.chart.kind == "bars"
    assert told in found.note


@pytest.mark.parametrize("case", PAGE["wishes"], ids=lambda c: c["say"])
def test_a_further_sentence(case: dict[str, Any]) -> None:
    columns = [ChartColumn(at=n, label=label, figure=n == 2) for n, label in enumerate(("Vessel", "Month", "Litres"))]
    wish = understood(case["say"], Seen(columns, ""))
    assert (wish.model_dump(exclude_none=True, exclude={"say"}) if wish else None) == case["to"]


@pytest.mark.parametrize(
    ("question", "left", "kind", "names"), [(*c, *([()] * (4 - len(c)))) for c in PAGE["questions"]]
)
def test_a_wish_in_a_question(question: str, left: str | None, kind: str | None, names: list[str]) -> None:
    words = {w for name in names for w in name.split("_")}
    asked = without_wish(question, lambda: words)
    assert asked.question == (left or question)
    assert ("table" if asked.table else asked.wish and asked.wish.kind) == kind
    assert bool(asked.words) == (left is not None)
    assert asked.words in question


def answer_of(case: dict[str, Any]) -> Answer:
    found, table = chosen(case)
    return Answer(text="", sql="", table=table, chart=found.chart)


def test_a_kept_chart_is_drawn_otherwise_from_its_own_rows() -> None:
    answer = answer_of(by_name("a trend of several"))
    assert redrawn(answer, ChartWish(), "en").chart == answer.chart
    turned = redrawn(answer, ChartWish(along=0), "en").chart
    assert turned is not None
    assert (turned.kind, turned.along, turned.colour) == ("bars", 0, 1)
    grid = redrawn(answer, ChartWish(say="as a grid"), "en")
    assert grid.chart is not None
    assert (grid.chart.kind, grid.note) == ("grid", "")
    odd = redrawn(answer, ChartWish(say="with sparkles"), "en")
    assert odd.chart == answer.chart
    assert "“with sparkles” is not understood" in odd.note
    assert redrawn(answer, ChartWish(figure=99, along=99, colour=99), "en").chart is not None


def test_points_of_two_figures_alone_stay_points() -> None:
    columns = [["eur", "number"], ["litres", "number"]]
    answer = answer_of({"columns": columns, "rows": [[n * 1.5, n * n] for n in range(9)]})
    assert answer.chart is not None
    again = redrawn(answer, ChartWish(top=5), "en").chart
    assert (answer.chart.kind, again and again.kind) == ("points", "points")


def test_a_table_of_which_nothing_was_drawn_can_be_wished_for() -> None:
    answer = answer_of(by_name("all equal"))
    assert answer.chart is None
    wished = redrawn(answer, ChartWish(kind="columns"), "en").chart
    assert wished is not None
    assert wished.kind == "columns"
    nothing = redrawn(answer_of(by_name("texts alone")), ChartWish(kind="bars"), "en")
    assert (nothing.chart, nothing.spec) == (None, None)
    assert "no figures" in nothing.note


@pytest.mark.parametrize("look", [LIGHT, DARK])
def test_a_figure_can_be_read_on_each_shade_of_a_grid(look: Look) -> None:
    # By sRGB's own words (IEC 61966-2-1), a hundredth of the way at a time.
    def light(colour: Sequence[float]) -> float:
        parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in (v / 255 for v in colour)]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    ends = [[int(shade[n : n + 2], 16) for n in (1, 3, 5)] for shade in look.shades]
    for n in range(101):
        ground = light([a + (b - a) * n / 100 for a, b in zip(*ends, strict=True)])
        contrast = (ground + 0.05) / 0.05 if look.asks_for_black(n / 100) else 1.05 / (ground + 0.05)
        assert contrast >= 4.5, n


TEXT = st.one_of(
    st.text(max_size=30), st.sampled_from(["datum.y", "</script>", "', alert(1), '", "{{x}}", "\\", "1e999", "=1+1"])
)
NAME = st.one_of(st.sampled_from(["month", "datum['x']", "a.b[0]", "\\"]), TEXT)
FIGURE = st.one_of(
    st.none(), st.integers(-(10**30), 10**30), st.floats(allow_nan=False, allow_infinity=False), st.just("12.50")
)
MONTH = st.dates().map(lambda day: day.isoformat()[:7])
COLUMNS = {
    "text": st.one_of(st.none(), TEXT, st.booleans()), "date": MONTH, "timestamp": st.one_of(MONTH, TEXT),
    "number": FIGURE, "decimal": st.one_of(FIGURE, st.floats(), TEXT), "bytes": TEXT,
}  # fmt: skip


@settings(max_examples=200, deadline=None)
@given(data=st.data())
def test_whatever_the_data_holds_is_never_more_than_a_value(data: st.DataObject) -> None:
    types = ["text", "number", *data.draw(st.lists(st.sampled_from(list(COLUMNS)), max_size=3))]
    columns = [
        ResultColumn(name=data.draw(NAME), type=kind, unit=data.draw(st.sampled_from([None, "EUR", "%"])))
        for kind in types
    ]
    row = st.tuples(*(COLUMNS[kind] for kind in types)).map(list)
    rows = data.draw(st.lists(row, min_size=2, max_size=8, unique_by=lambda r: str(r[0])))
    answer = Answer(text="", sql="", table=ResultTable(columns=columns, rows=rows, row_count=len(rows)))
    for kind in KINDS:
        made = redrawn(answer, ChartWish(kind=kind, along=data.draw(st.integers(0, len(types)))), "de", width=300)
        if made.spec is None:
            assert made.note
            continue
        json.dumps(made.spec, allow_nan=False)
        code = [text for key, text in _strings(made.spec) if key in ("filter", "test", "expr", "field", "calculate")]
        assert {
            c for c in code if not re.fullmatch(r"width < \d+ \? (-40 : 0|'right' : 'center'|'middle' : 'top')", c)
        } <= CODE
        assert set().union(*(v.keys() for v in values_of(made.spec))) <= {*CODE, "w", "open", "i"}


CODE = {
    "datum.i === true",
    "x",
    "y",
    "c",
    "t",
    "u",
    "l",
    "n",
    "s",
    "w",
    "!datum.open",
    "datum.open === true",
    "datum.y >= 0",
    "datum.y < 0",
}
"""All that is field or expression in a specification."""


def _strings(value: Any, key: str = "") -> Iterator[tuple[str, str]]:
    if isinstance(value, str):
        yield key, value
    for name, inner in (
        value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    ):
        if name != "values":
            yield from _strings(inner, name if isinstance(name, str) else key)


def test_many_rows_take_as_much_longer_as_they_are_more() -> None:
    def took(count: int) -> float:
        rows = [["the same name " * 9, f"{n}", n] for n in range(count)]
        case = {"columns": [["a", "text"], ["b", "text"], ["n", "integer"]], "rows": rows}
        started = time.perf_counter()
        chart, table = chart_of(case, kind="bars", along=1)
        specification(chart, table, "en")
        return time.perf_counter() - started

    took(500)
    assert took(4000) < 40 * max(took(500), 0.001)
