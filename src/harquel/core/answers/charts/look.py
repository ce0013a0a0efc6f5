"""How a chart looks, on a light ground and on a dark one; and how a language writes its numbers and months."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Final

from babel import Locale
from babel.numbers import get_decimal_symbol, get_group_symbol

FONT: Final = "'Atkinson Hyperlegible Next Variable', 'Atkinson Hyperlegible', 'DejaVu Sans', system-ui, sans-serif"


_GREY: Final = (1.05 * 0.05) ** 0.5
"""The relative luminance, with flare, that differs from black and from white alike (WCAG 2, contrast ratio)."""


def _linear(part: float) -> float:
    """The light of a part of a colour (WCAG 2, relative luminance)."""
    return part / 12.92 if part <= 0.04045 else float(((part + 0.055) / 1.055) ** 2.4)


@dataclass(frozen=True)
class Look:
    """Colours of a ground. `parts` can be told apart by people who see red and green alike: they differ in lightness,
    too.
    """

    ground: str
    ink: str
    faint: str
    line: str
    main: str
    parts: tuple[str, ...]
    shades: tuple[str, str]

    def asks_for_black(self, share: float) -> bool:
        """Whether black is read better than white on a shade so far (0 to 1) between the two; 4.5:1 on any."""
        low, high = (tuple(int(shade[n : n + 2], 16) for n in (1, 3, 5)) for shade in self.shades)
        mixed = (a + (b - a) * share for a, b in zip(low, high, strict=True))
        red, green, blue = (_linear(part / 255) for part in mixed)
        light = 0.2126 * red + 0.7152 * green + 0.0722 * blue
        return light + 0.05 > _GREY


LIGHT: Final = Look(
    "#fffdf8", "#17262c", "#55666c", "#d8d3c6", "#0e6070",
    ("#0e6070", "#d98200", "#8a4f9e", "#5aa9d6", "#b5431a", "#8a9a3b", "#55666c"), ("#e3edec", "#0b4a57"),
)  # fmt: skip
DARK: Final = Look(
    "#152328", "#e9e6dd", "#9fb0b3", "#2b3e45", "#6fc3cf",
    ("#6fc3cf", "#f0b050", "#b08bd0", "#b9e0fa", "#f0805a", "#c3d16b", "#9fb0b3"), ("#1f3a42", "#8fe0ec"),
)  # fmt: skip


@lru_cache(maxsize=8)
def config(dark: bool, language: str) -> dict[str, Any]:
    """The configuration of a chart, but for its rows and marks."""
    look = DARK if dark else LIGHT
    words = {"labelColor": look.faint, "titleColor": look.ink, "labelFont": FONT, "titleFont": FONT}
    return {
        "background": look.ground, "font": FONT, "view": {"stroke": None},
        "axis": {
            **words, "gridColor": look.line, "domainColor": look.line, "tickColor": look.line, "labelFontSize": 12,
            "titleFontSize": 12, "titleFontWeight": "normal", "titlePadding": 8, "labelPadding": 6,
        },
        "legend": {
            **words, "labelFontSize": 12, "titleFontSize": 12, "titleFontWeight": "normal", "labelLimit": 240,
            "symbolStrokeWidth": 2,
        },
        "title": {
            "anchor": "start", "color": look.ink, "subtitleColor": look.faint, "fontSize": 14, "fontWeight": 600,
            "subtitleFontSize": 12, "subtitlePadding": 5, "offset": 12, "frame": "bounds",
        },
        "range": {"category": list(look.parts)},
        "locale": locale(language),
    }  # fmt: skip


def locale(language: str) -> dict[str, Any]:
    """Of numbers and times, as d3 takes it; from the data of the Unicode consortium."""
    known = Locale(language)
    days = [6, 0, 1, 2, 3, 4, 5]
    return {
        "number": {
            "decimal": get_decimal_symbol(language), "thousands": get_group_symbol(language), "grouping": [3],
            "currency": ["", ""],
        },
        "time": {
            "dateTime": "%x %X", "date": "%-d. %-m. %Y" if language == "de" else "%-d %b %Y", "time": "%H:%M",
            "periods": ["AM", "PM"],
            "days": [known.days["format"]["wide"][d] for d in days],
            "shortDays": [known.days["format"]["abbreviated"][d] for d in days],
            "months": [known.months["format"]["wide"][m] for m in range(1, 13)],
            "shortMonths": [known.months["format"]["abbreviated"][m] for m in range(1, 13)],
        },
    }  # fmt: skip
