"""Starts and stops scans, and compares the versions that they left."""

from __future__ import annotations

import time

from harquel.contract import CatalogDiff, ChangeShape, ScanRequest
from harquel.core.domain.catalog import Catalog
from harquel.core.scanning import compare
from harquel.service.access.models import Token
from harquel.service.ledger.append import append
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime

from ..catalogs import load
from ..models import CatalogVersion, StoredScan
from .find import source_for

_RECORDED_WITHIN_S = 10.0


def start(name: str, request: ScanRequest, token: Token) -> StoredScan:
    """The scan that is now under way. Raises ProblemError."""
    source = source_for(name, token, disabled_too=True)
    run = source.keeper.scan(request.kind)
    deadline = time.monotonic() + _RECORDED_WITHIN_S
    while (row := source.scans.row_of(run)) is None and time.monotonic() < deadline:
        time.sleep(0.01)
    if row is None:
        raise ProblemError(503, "scan-not-recorded", "The scan could not be put on record.", "Try again in a moment.")
    facts = {"source": name, "scan": row, "kind": run.kind}
    runtime().writer.do(lambda: append(who=token.person.name, kind="scan-started", facts=facts))
    return StoredScan.objects.get(pk=row)


def stop(name: str, scan_id: int, token: Token) -> StoredScan:
    """Ends a scan after its current table; what it saw is kept for the next one. Raises ProblemError."""
    found = find(name, scan_id, token)
    source = source_for(name, token, disabled_too=True)
    if not source.keeper.stop():
        raise ProblemError(409, "no-scan", "No scan is under way.", "Start one first.")
    facts = {"source": name, "scan": scan_id}
    runtime().writer.do(lambda: append(who=token.person.name, kind="scan-stopped", facts=facts))
    return found


def find(name: str, scan_id: int, token: Token) -> StoredScan:
    """One scan. Raises ProblemError."""
    source_for(name, token, disabled_too=True)
    found = StoredScan.objects.filter(source=name, pk=scan_id).first()
    if found is None:
        raise ProblemError(404, "unknown-scan", f"There is no scan {scan_id} of {name}.", "List them with …/scans.")
    return found


def difference(name: str, old: int | None, new: int | None, token: Token) -> CatalogDiff:
    """What came, went and changed of what is exposed; by default between the last two. Raises ProblemError."""
    source = source_for(name, token, disabled_too=True)
    numbers = list(
        CatalogVersion.objects.filter(source=name).order_by("-number").values_list("number", flat=True)
    )  # fmt: skip
    if not numbers:
        raise ProblemError(409, "no-catalog", f"{name} was not scanned yet.", "Wait for its first scan to end.")
    newer = new if new is not None else numbers[0]
    older = old if old is not None else next((n for n in numbers if n < newer), newer)
    policy = source.core.policy
    one, other = (policy.visible(_version(name, n)) for n in (older, newer))
    changes = [ChangeShape(kind=c.kind, table=c.table, column=c.column, said=c.said) for c in compare(one, other)]
    return CatalogDiff(source=name, old=older, new=newer, changes=changes)


def _version(name: str, number: int) -> Catalog:
    found = CatalogVersion.objects.filter(source=name, number=number).first()
    if found is None:
        raise ProblemError(
            404, "unknown-version", f"There is no version {number} of {name}.", "See …/catalog/versions."
        )
    return load(found)
