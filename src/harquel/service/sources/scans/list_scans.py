"""Scans of a source."""

from __future__ import annotations

from django.db.models import QuerySet

from harquel.contract import Scans
from harquel.service.operations import Call, Nothing, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..models import StoredScan
from ..shapes import SHOWN, scan_shape
from .finding import as_it_is


@operation(
    "scan.list", takes=Nothing, gives=Scans, about=SOURCE_EVEN_OFF,
    rule="how far, of how many and what went wrong with steward",
)  # fmt: skip
def list_scans(call: Call[Nothing, LiveSource]) -> Scans:
    """Newest first."""
    found: QuerySet[StoredScan] = StoredScan.objects.filter(source=call.about.name).order_by("-pk")[:SHOWN]
    return Scans([scan_shape(as_it_is(s, call.about), call.caller) for s in found])
