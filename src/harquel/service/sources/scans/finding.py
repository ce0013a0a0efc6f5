"""One scan of a source."""

from __future__ import annotations

from typing import Any

from harquel.service.errors import ProblemError
from harquel.service.operations import Call

from ..live import LiveSource
from ..models import StoredScan


def scan_of(call: Call[Any, LiveSource]) -> StoredScan:
    """The one that the call names. Raises ProblemError."""
    number, name = call.at["scan_id"], call.about.name
    found = StoredScan.objects.filter(source=name, pk=number).first()
    if found is None:
        raise ProblemError(404, "unknown-scan", "problem-unknown-scan", number=number, name=name)
    return as_it_is(found, call.about)


def as_it_is(found: StoredScan, source: LiveSource) -> StoredScan:
    """With what is known of it and not on record yet."""
    return source.scans.as_it_is(found, source.keeper.last)
