"""A chart with its rows as a specification of Vega-Lite 6: titles, units, an axis that begins at zero where bars do.

Values and names of the data are only ever values and titles here: no name of a column becomes a field, nothing of the
data becomes an expression.
"""

from __future__ import annotations

from typing import Any, Final

from harquel.core.answers.charts.look import DARK, LIGHT, config
from harquel.core.answers.charts.marks import MARKS
from harquel.core.answers.charts.rows import Drawing
from harquel.core.domain.chart import Chart
from harquel.core.domain.inquiry import ResultTable

SCHEMA: Final = "https://vega.github.io/schema/vega-lite/v6.json"
"""A name, not an address: nothing is fetched."""

_NARROW: Final = 400
"""Pixels, up to which a title has to break sooner."""


def specification(
    chart: Chart, table: ResultTable, language: str, dark: bool = False, width: int | None = None
) -> dict[str, Any]:  # fmt: skip
    """The specification; `width` in pixels, None for that of what it is put into."""
    longest = 44 if width is None or width > _NARROW else 34
    drawing = Drawing(chart, table, language, DARK if dark else LIGHT)
    made: dict[str, Any] = {
        "$schema": SCHEMA, "width": width or "container", "config": config(dark, language),
        "autosize": {"type": "fit-x", "contains": "padding"},
        "padding": {"left": 8, "right": 16, "top": 8, "bottom": 8},
        "title": {"text": drawing.lines(chart.title, longest), "subtitle": drawing.subtitle()},
        "data": {"values": drawing.values},
    }  # fmt: skip
    return {**made, **MARKS[chart.kind](drawing)}
