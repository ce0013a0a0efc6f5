"""The sentence over a result: pinned for twelve shapes in both languages, and what holds of every one."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from harquel.contract.charts import ChartWish
from harquel.core.answers.charts import arranged, as_read, specification
from harquel.core.answers.sentence import Told, remark, sentence
from harquel.core.calendar import Calendar
from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.inquiry import ResultColumn, ResultTable
from harquel.core.language import language_of
from harquel.core.language.say import LANGUAGES, catalogue
from harquel.core.reading import Reading
from harquel.core.reading.value import Time
from harquel.testing.sources import demo_notes

DATA = Path(__file__).parents[1] / "data"
PAGE = read_yaml((DATA / "sentences.yaml").read_text("utf-8"))
NOTES = demo_notes()
MEASURES = set(NOTES.measures)


def told_of(case: dict[str, Any]) -> Told:
    """What a case comes to."""
    columns = [
        ResultColumn(name=name, type=kind, unit=unit[0] if unit else None, decimals=unit[1] if unit[1:] else None)
        for name, kind, *unit in case["columns"]
    ]
    table = ResultTable(columns=columns, rows=case["rows"], row_count=len(case["rows"]))
    places = case.get("places", {n: n for n in range(len(columns))})
    now = dt.datetime.fromisoformat(PAGE["now"])
    reading = Reading.model_validate(case["reading"])
    notes = NOTES.model_copy(update={"calendar": Calendar.model_validate(case.get("calendar", {}))})
    return Told(case["question"], reading, table, places, notes, now, language_of(case["question"]))


@pytest.mark.parametrize("case", PAGE["cases"], ids=lambda c: c["question"])
def test_the_sentence_over_a_result(case: dict[str, Any]) -> None:
    assert sentence(told_of(case)) == case["says"]


@pytest.mark.parametrize("case", [c for c in PAGE["cases"] if c["says"]], ids=lambda c: c["question"])
def test_it_names_the_time_and_no_column(case: dict[str, Any]) -> None:
    said, reading = case["says"].casefold(), case["reading"]
    for time in reading.get("during", ()):
        assert str(time.get("from", time.get("until")))[:4] in said
    columns = {ref.rpartition(".")[2] for ref in _named(reading)}
    assert not {c for c in columns if "_" in c and (c in said or c.replace("_", " ") in said)}


def _named(value: Any) -> Iterator[str]:
    """Whatever a reading says a column by."""
    if isinstance(value, dict):
        yield from (v for k, v in value.items() if k in ("column", "of") and isinstance(v, str) and v not in MEASURES)
    for inner in value.values() if isinstance(value, dict) else value if isinstance(value, list) else ():
        yield from _named(inner)


VALUES = st.one_of(
    st.none(), st.booleans(), st.integers(), st.floats(), st.decimals(allow_nan=True).map(str), st.text(max_size=200),
    st.dates().map(str), st.sampled_from(["9999-12-31", "0001-01-01", "2026-09", "2026-13", "2026-Q3", "1e999"]),
)  # fmt: skip


@settings(max_examples=400, deadline=None)
@given(data=st.data(), case=st.sampled_from(PAGE["cases"]), count=st.integers(0, 6))
def test_whatever_stands_in_the_rows_it_is_told_within_bounds_or_not_at_all(
    data: st.DataObject, case: dict[str, Any], count: int
) -> None:
    row = st.lists(VALUES, min_size=len(case["columns"]), max_size=len(case["columns"]))
    ends = st.sampled_from(["0001-01-01", "9999-12-31", "9999-01-01", "2026-09-14 10:00:00", "", None, "x"])
    times = [{**t, "from": data.draw(ends), "until": data.draw(ends)} for t in case["reading"].get("during", ())]
    told = told_of({**case, "rows": data.draw(st.lists(row, min_size=count, max_size=count))})
    told = replace(told, reading=told.reading.model_copy(update={"during": tuple(map(Time.model_validate, times))}))
    said = sentence(told)
    assert said is None or (len(said) <= 600 and "\n" not in said)
    assert len(remark(told)) <= 600
    chart = arranged(as_read(told), told.table, ChartWish(), told.now, told.language).chart
    assert chart is None or json.dumps(specification(chart, told.table, told.language), allow_nan=False)


def test_every_message_is_there_in_every_language() -> None:
    known = {language: set(catalogue(language)._messages) for language in LANGUAGES}
    assert known["en"] == known["de"]


@pytest.mark.parametrize(
    "case", read_yaml((DATA / "remarks.yaml").read_text("utf-8")), ids=lambda c: str(c["rows"])[:60]
)
def test_what_is_worth_a_remark(case: dict[str, Any]) -> None:
    figure = {"figure": case.get("figure", "count"), "words": "sailings", "of": "id" if "figure" in case else None}
    per = {"words": "per thing", "column": "channel", "unit": case.get("per")}
    reading = Reading.model_validate({"rows": "sailing", "figures": [figure], "per": [per], "top": case.get("top")})
    table = ResultTable(
        columns=[ResultColumn(name="a", type="text"), ResultColumn(name="n", type="integer")], rows=case["rows"],
        row_count=len(case["rows"]),
    )  # fmt: skip
    now = dt.datetime.fromisoformat(PAGE["now"])
    told = Told("", reading, table, {0: 0, 1: 1}, NOTES, now, "de" if "de" in case else "en")
    assert remark(told) == case.get("de", case.get("says"))
    assert remark(replace(told, table=replace(table, cut_by="rows"))) == ""
