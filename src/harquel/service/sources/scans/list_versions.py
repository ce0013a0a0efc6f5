"""Versions of a catalog."""

from __future__ import annotations

from harquel.contract import VersionLine, Versions
from harquel.core.domain.terms import Terms
from harquel.service.operations import Call, Nothing, operation

from ..catalogs import load
from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..models import CatalogVersion
from ..shapes import SHOWN


@operation(
    "catalog.versions", takes=Nothing, gives=Versions, about=SOURCE_EVEN_OFF,
    rule="tables are counted as one sees them; all with steward",
)  # fmt: skip
def list_versions(call: Call[Nothing, LiveSource]) -> Versions:
    """Newest first."""
    source, steward = call.about, call.caller.may("steward")
    found = CatalogVersion.objects.filter(source=source.name).order_by("-number")
    found = found.defer("tables")[:SHOWN] if steward else found[:SHOWN]
    terms = Terms(source.core.policy, call.caller.asker)

    def tables(version: CatalogVersion) -> int:
        return version.count if steward else len(terms.visible(load(version)).tables)

    lines = [
        VersionLine(number=v.number, fingerprint=v.fingerprint, tables=tables(v), scanned_at=v.scanned_at)
        for v in found
    ]
    return Versions(lines)
