"""How fresh the data of an answer are."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Literal

FreshBy = Literal["column", "replica", "file"]


@dataclass(kw_only=True)
class Fresh:
    """Up to when the data reach that an answer was made from, and by what that is known."""

    at: dt.datetime
    """The instant."""
    by: FreshBy
    """The newest value of a column that the notes name; how far a replica is; when the file was written."""
    of: str = ""
    """The column, as table.column; empty for others."""
    said: str = ""
    """The same in words, in the asker's language and the zone of the source."""


@dataclass(frozen=True)
class Written:
    """Up to when a copy of data that can fall behind holds them."""

    at: dt.datetime
    by: Literal["replica", "file"]
