"""Pictures of a result: which columns are drawn and how, as Vega-Lite, and as an image."""

from .arrange import Arranged, arranged
from .redraw import Drawn, redrawn
from .seen import Seen, as_kept, as_read, as_they_are
from .specification import specification
from .wishes import Asked, without_wish

__all__ = [
    "Arranged",
    "Asked",
    "Drawn",
    "Seen",
    "arranged",
    "as_kept",
    "as_read",
    "as_they_are",
    "redrawn",
    "specification",
    "without_wish",
]
