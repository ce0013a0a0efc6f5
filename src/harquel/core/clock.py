"""The only place that asks what time it is."""

from __future__ import annotations

import datetime as dt


def utc_now() -> dt.datetime:
    """The present instant, in UTC."""
    return dt.datetime.now(dt.UTC)
