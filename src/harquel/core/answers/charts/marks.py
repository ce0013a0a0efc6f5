"""The marks of each kind of chart, and their axes: what Vega-Lite draws of the rows."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Final

from harquel.contract.charts import ChartKind, Span
from harquel.core.answers.charts.rows import Drawing, as_float
from harquel.core.calendar import FISCAL
from harquel.core.domain.inquiry import ResultColumn

_STEP: Final = 26
"""Pixels from one bar to the next."""
_HEIGHT: Final = 280
_LETTER: Final = 7
"""Pixels that a letter of a name takes at most on average."""
_APART: Final = 8
"""Pixels between two names."""
_MANY: Final = 10_000_000
_FEW: Final = 0.001
"""Figures beyond which an axis is written short, and below which it is written with powers of ten."""
_TIMES: Final[dict[Span, str]] = {
    "year": "%Y", "quarter": "Q%q %Y", "month": "%b %Y", "week": "%-d %b %Y", "day": "%-d %b %Y",
    "instant": "%-d %b, %H:%M", "fiscal year": "%Y/", "fiscal quarter": "Q%q %Y/",
}  # fmt: skip
_NEXT_YEAR: Final = "utcFormat(datum.value, '{form}') + utcFormat(utcOffset('year', datum.value, 1), '%y')"
"""A fiscal year is written with both years that it lies in."""
_ROUND: Final = 12
"""Columns up to which they are rounded at their ends."""
_WRITTEN_CELLS: Final = 120
"""Fields of a grid up to which each has its figure written in it."""


def _tips(on: Drawing) -> list[dict[str, str]]:
    """What is told of a mark that somebody points at."""
    along = on.along.label if on.along else ""
    tips = [{"field": "x", "type": "nominal", "title": along}] if along else []
    if on.colour is not None:
        tips.append({"field": "c", "type": "nominal", "title": on.colour.label})
    label = on.labels[0] if len(on.figures) == 1 else " "
    if len(on.figures) > 1:
        tips.append({"field": "c", "type": "nominal", "title": " "})
    return [*tips, {"field": "t", "type": "nominal", "title": label}]


def _many(on: Drawing) -> bool:
    """Whether marks are told apart by colour."""
    return on.colour is not None or (len(on.figures) > 1 and on.along is not None)


def _hue(on: Drawing) -> dict[str, Any]:
    """One colour, or one for each that is told apart."""
    if not _many(on):
        return {"value": on.look.main}
    names = on.labels if on.colour is None else [s.name for s in on.shades]
    names = names[: on.chart.top] if on.chart.kind == "line" else names
    title = on.colour.label if on.colour else None
    return {
        "field": "c", "type": "nominal", "sort": None, "scale": {"domain": names},
        "legend": {"title": title, "orient": "top", "columns": _legend_columns(names), "labelLimit": 130},
    }  # fmt: skip


def _legend_columns(names: Sequence[str]) -> int:
    """As many as a phone has room for."""
    return 3 if max(map(len, names), default=0) <= 8 else 2


def _axis(on: Drawing, place: int = 0) -> dict[str, Any]:
    """The axis of a figure: its unit and its name, numbers as the language writes them."""
    column, label = on.figures[place], on.labels[place]
    values = [abs(v) for row in on.table.rows if (v := as_float(row[on.chart.figures[place]])) is not None]
    top = max(values, default=0)
    form = "~s" if top >= _MANY else "~g" if 0 < top < _FEW else ",~f"
    whole = {"tickMinStep": 1} if column.type == "integer" else {}
    unit = column.unit if (column.unit or "").casefold() != label.casefold() else ""
    alone = len(on.figures) == 1 or on.chart.kind == "points"
    named = " · ".join(text for text in (label if alone else "", unit) if text)
    return {"title": named or None, "format": form, "tickCount": 6, **whole}


def _figure(on: Drawing, **more: Any) -> dict[str, Any]:
    """The figures as a channel."""
    return {"field": "y", "type": "quantitative", "axis": _axis(on), **more}


def bars(on: Drawing) -> dict[str, Any]:
    """Bars that lie, the names beside them and the figures at their ends."""
    grouped: dict[str, Any] = {"yOffset": {"field": "c", "sort": None}} if _many(on) else {}
    place = {
        "field": "x", "type": "nominal", "sort": None,
        "axis": {"title": None, "labelLimit": 150, "ticks": False, "domain": False, "labelColor": on.look.ink},
    }  # fmt: skip
    values = [v["y"] for v in on.values if v["y"] is not None]
    low, high = min([0.0, *values]), max([0.0, *values])
    # The figure at the end of the longest bar needs its place within the frame.
    room = max((len(v["t"]) for v in on.values), default=0) * 0.011 * ((high - low) or 1)
    domain = [low - (room if low < 0 else 0), high + (room if high > 0 else 0)]
    axis = {**_axis(on), "grid": False, "labels": False, "ticks": False, "domain": False}
    across = {"field": "y", "type": "quantitative", "axis": axis, "scale": {"domain": domain, "nice": False}}
    share: dict[str, Any] = {**grouped, "y": place, "tooltip": _tips(on)}
    text = {"type": "text", "baseline": "middle", "fontSize": 12, "color": on.look.faint}
    figures: list[dict[str, Any]] = [
        {
            "transform": [{"filter": f"datum.y {sign} 0"}],
            "mark": {**text, "align": side, "dx": dx},
            "encoding": {**share, "x": across, "text": {"field": "t", "type": "nominal"}},
        }
        for sign, side, dx in ((">=", "left", 5), ("<", "right", -5))
    ]  # fmt: skip
    return {
        "height": {"step": _STEP if not grouped else 20},
        "layer": [
            {"mark": {"type": "bar", "cornerRadiusEnd": 2}, "encoding": {**share, "x": across, "color": _hue(on)}},
            *figures,
        ],
    }  # fmt: skip


def columns(on: Drawing) -> dict[str, Any]:
    """Columns that stand in the order of what they stand for."""
    grouped = {"xOffset": {"field": "c", "sort": None}} if _many(on) else {}
    names = [p.name for p in on.drawn] or on.labels
    # Names stand upright only while the widest of them has room under its column, on a phone or on a desk; of hours
    # some may go unnamed.
    needed = len(names) * (max(map(len, names), default=0) * _LETTER + _APART)
    counted = on.along is not None and on.along.span == "hour"
    tight = f"width < {needed}"
    tilt: dict[str, Any] = {"labelAngle": 0, "labelOverlap": True}
    if not counted:
        tilt = {
            "labelAngle": {"expr": f"{tight} ? -40 : 0"}, "labelAlign": {"expr": f"{tight} ? 'right' : 'center'"},
            "labelBaseline": {"expr": f"{tight} ? 'middle' : 'top'"},
        }  # fmt: skip
    place = {
        "field": "x", "type": "nominal", "sort": None,
        "axis": {"title": on.along.label if on.along else None, **tilt, "labelLimit": 120, "ticks": False},
    }  # fmt: skip
    opacity = {"condition": {"test": "datum.open === true", "value": 0.45}, "value": 1}
    return {
        "height": _HEIGHT,
        # Of narrow ones nobody sees it, and an image takes half as long again.
        "mark": {"type": "bar", "cornerRadiusEnd": 2 if len(names) <= _ROUND else 0},
        "encoding": {
            "x": place, "y": _figure(on), "color": _hue(on), "opacity": opacity, "tooltip": _tips(on),
            **grouped,
        },
    }  # fmt: skip


def line(on: Drawing) -> dict[str, Any]:
    """A line over time; what is not over yet is dashed."""
    assert on.along is not None
    assert on.along.span is not None
    low, form = on.low(), _TIMES[on.along.span]
    form = form.replace("%-d ", "%-d. ") if on.language == "de" else form
    scale = {"zero": False, "domainMin": low} if low is not None else {"zero": True}
    when: dict[str, Any] = {
        "field": "w", "type": "temporal", "scale": {"type": "utc"},
        "axis": {
            "title": None, "format": form, "labelOverlap": True, "labelSeparation": 12, "grid": False, "tickCount": 8,
        },
    }  # fmt: skip
    if on.along.span in FISCAL:
        when["axis"]["labelExpr"] = _NEXT_YEAR.format(form=form)
    over = {"x": when, "y": _figure(on, scale=scale), "color": _hue(on)}
    several = {"shape": _hue(on)} if _many(on) else {}
    layers: list[dict[str, Any]] = [
        {"transform": [{"filter": "!datum.open"}], "mark": {"type": "line", "strokeWidth": 2.5}, "encoding": over},
        {
            "transform": [{"filter": "!datum.open"}],
            "mark": {"type": "point", "filled": True, "size": 45, "opacity": 1},
            "encoding": {**over, **several, "tooltip": _tips(on)},
        },
    ]  # fmt: skip
    if on.chart.under_way:
        ends = [p.name for p in on.places[-2:]]
        layers += [
            {
                "transform": [{"filter": {"field": "x", "oneOf": ends}}],
                "mark": {"type": "line", "strokeWidth": 2, "strokeDash": [4, 4]}, "encoding": over,
            },
            {
                "transform": [{"filter": "datum.open === true"}],
                "mark": {"type": "point", "filled": False, "size": 55, "strokeWidth": 2},
                "encoding": {**over, "tooltip": _tips(on)},
            },
        ]  # fmt: skip
    return {"height": _HEIGHT, "layer": layers}


def parts(on: Drawing) -> dict[str, Any]:
    """A ring of parts, the largest first, each with its name and its share beside it."""
    values = on.values
    total = sum(v["y"] or 0.0 for v in values) or 1.0
    for v in values:
        v["c"] = f"{v['x']} · {v['t']}"
        share = ResultColumn(name="", type="number", unit="%", decimals=1)
        v["s"] = on.said(str(round(100 * (v["y"] or 0.0) / total, 1)), share)
    names = [v["c"] for v in values]
    tips = [
        *_tips(on),
        *([] if on.figures[0].unit == "%" else [{"field": "s", "type": "nominal", "title": "%"}]),
    ]
    return {
        "data": {"values": values}, "height": 240,
        "mark": {"type": "arc", "innerRadius": 62, "outerRadius": 112, "padAngle": 0.012},
        "encoding": {
            "theta": {"field": "y", "type": "quantitative", "stack": True},
            "order": {"field": "n", "type": "quantitative"},
            "color": {
                "field": "c", "type": "nominal", "sort": None, "scale": {"domain": names},
                "legend": {"title": None, "orient": "bottom", "columns": 2, "labelLimit": 280, "symbolType": "square"},
            },
            "tooltip": tips,
        },
    }  # fmt: skip


def points(on: Drawing) -> dict[str, Any]:
    """A point for each row, by two of its figures."""
    spread = {"zero": False, "padding": 12}
    named = [{"field": "l", "type": "nominal", "title": on.along.label}] if on.along else []
    return {
        "height": 340,
        "mark": {"type": "point", "filled": True, "size": 70, "opacity": 0.75},
        "encoding": {
            "x": {"field": "x", "type": "quantitative", "axis": _axis(on, 0), "scale": spread},
            "y": {"field": "y", "type": "quantitative", "axis": _axis(on, 1), "scale": spread},
            "color": {"value": on.look.main},
            "tooltip": [
                *named,
                {"field": "t", "type": "nominal", "title": on.labels[0]},
                {"field": "u", "type": "nominal", "title": on.labels[1]},
            ],
        },
    }  # fmt: skip


def grid(on: Drawing) -> dict[str, Any]:
    """A field for each pair, the darker the larger its figure."""
    assert on.colour is not None
    values = on.values
    ys = [v["y"] for v in values if v["y"] is not None]
    low, high = min(ys, default=0.0), max(ys, default=0.0)
    for v in values:
        v["i"] = on.look.asks_for_black(((v["y"] or 0.0) - low) / ((high - low) or 1))
    small = len(values) <= _WRITTEN_CELLS and len(on.drawn) <= 12
    across = {
        "field": "x", "type": "nominal", "sort": None,
        "axis": {"title": None, "labelAngle": -40, "labelLimit": 110, "orient": "top", "ticks": False, "domain": False},
    }  # fmt: skip
    down = {
        "field": "c", "type": "nominal", "sort": None,
        "axis": {"title": None, "labelLimit": 150, "ticks": False, "domain": False, "labelColor": on.look.ink},
    }  # fmt: skip
    axis = _axis(on)
    shade = {
        "field": "y", "type": "quantitative",
        "scale": {"range": list(on.look.shades), "domain": [low, high], "interpolate": "rgb", "nice": False},
        "legend": {"title": axis["title"], "orient": "bottom", "gradientLength": 200, "format": axis["format"]},
    }  # fmt: skip
    where = {"x": across, "y": down, "tooltip": _tips(on)}
    figures = {
        "mark": {"type": "text", "fontSize": 11},
        "encoding": {
            **where, "text": {"field": "y", "type": "quantitative", "format": axis["format"]},
            "color": {"condition": {"test": "datum.i === true", "value": "#000000"}, "value": "#ffffff"},
        },
    }  # fmt: skip
    fields = {
        "mark": {"type": "rect", "stroke": on.look.ground, "strokeWidth": 2},
        "encoding": {**where, "color": shade},
    }
    return {"height": {"step": _STEP}, "layer": [fields, figures] if small else [fields]}


MARKS: Final[Mapping[ChartKind, Callable[[Drawing], dict[str, Any]]]] = {
    "line": line, "bars": bars, "columns": columns, "parts": parts, "points": points, "grid": grid,
}  # fmt: skip
