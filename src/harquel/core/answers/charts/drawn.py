"""A chart as an image: drawn by vl-convert, which fetches nothing."""

from __future__ import annotations

from typing import Any, Final, Literal

Image = Literal["svg", "png"]
_LIBRARY: Final = "6.4"
"""Of Vega-Lite; the console draws with the same (console/package.json)."""
_SCALE: Final = 2.0
"""Pixels to a unit of length, so that it stays sharp on fine screens."""
WIDTH: Final = 760


def drawn(specification: dict[str, Any], image: Image) -> bytes:
    """The image of a specification of Vega-Lite. Raises ValueError for one that cannot be drawn."""
    # The engine in it takes a second and 80 MB: only for those who want a picture.
    import vl_convert

    if image == "svg":
        text: str = vl_convert.vegalite_to_svg(specification, vl_version=_LIBRARY, allowed_base_urls=[])
        return text.encode()
    # What a screen reader would be told of each mark is lost in an image, and costs a fifth of its time.
    plain = {**specification, "config": {**specification.get("config", {}), "aria": False}}
    made: bytes = vl_convert.vegalite_to_png(plain, vl_version=_LIBRARY, scale=_SCALE, allowed_base_urls=[])
    return made
