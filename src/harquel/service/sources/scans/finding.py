"""One scan of a source."""

from __future__ import annotations

from typing import Any

from harquel.service.operations import Call
from harquel.service.problems import ProblemError

from ..live import LiveSource
from ..models import StoredScan


def scan_of(call: Call[Any, LiveSource]) -> StoredScan:
    """The one that the call names. Raises ProblemError."""
    number, name = call.at["scan_id"], call.about.name
    found = StoredScan.objects.filter(source=name, pk=number).first()
    if found is None:
        raise ProblemError(404, "unknown-scan", f"There is no scan {number} of {name}.", "List them with …/scans.")
    return found
