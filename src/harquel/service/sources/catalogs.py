"""Catalog versions and scans in the records."""

from __future__ import annotations

import datetime as dt
import zlib
from collections.abc import Mapping
from dataclasses import replace
from typing import Final

from harquel.core.clock import utc_now
from harquel.core.domain.catalog import Catalog, Table
from harquel.core.scanning import ScanRun, tables_from_json, tables_to_json
from harquel.service.records.writer import Writer

from .models import CatalogVersion, ScanPart, StoredScan

KEPT_VERSIONS: Final = 50
_TOLD_EVERY_S: Final = 0.2


class RecordedCatalogs:
    """The core's CatalogStore for one source. Writes go through the one writer."""

    def __init__(self, source: str, writer: Writer) -> None:
        self.source, self._writer = source, writer

    def latest(self) -> Catalog | None:
        """See CatalogStore."""
        found = CatalogVersion.objects.filter(source=self.source).order_by("-number").first()
        return load(found) if found is not None else None

    def save(self, catalog: Catalog) -> Catalog:
        """See CatalogStore."""
        packed = zlib.compress(tables_to_json(catalog.tables), 6)

        def keep() -> int:
            last = CatalogVersion.objects.filter(source=self.source).order_by("-number").first()
            number = (last.number if last else 0) + 1
            CatalogVersion.objects.create(
                source=self.source, number=number, engine=catalog.engine, fingerprint=catalog.fingerprint,
                default_schema=catalog.default_schema, scanned_at=catalog.scanned_at, count=len(catalog.tables),
                tables=packed,
            )  # fmt: skip
            CatalogVersion.objects.filter(source=self.source, number__lte=number - KEPT_VERSIONS).delete()
            ScanPart.objects.filter(source=self.source).delete()
            return number

        return replace(catalog, number=self._writer.do(keep))

    def parts(self) -> Mapping[str, Table]:
        """See CatalogStore."""
        found = ScanPart.objects.filter(source=self.source)
        return {p.table: tables_from_json(f"[{p.body}]")[0] for p in found}

    def keep_part(self, table: Table) -> None:
        """See CatalogStore."""
        body = tables_to_json((table,)).decode()[1:-1]
        self._writer.submit(
            lambda: ScanPart.objects.update_or_create(source=self.source, table=table.name, defaults={"body": body})
        )

    def drop_parts(self) -> None:
        """See CatalogStore."""
        self._writer.do(lambda: ScanPart.objects.filter(source=self.source).delete())


def load(found: CatalogVersion) -> Catalog:
    """A stored version."""
    tables = tables_from_json(zlib.decompress(bytes(found.tables)))
    return Catalog(found.engine, tables, found.fingerprint, found.scanned_at, found.default_schema, found.number)


class ScanRecorder:
    """Keeps the progress of a source's scans in the records, not more often than anybody could read."""

    def __init__(self, source: str, writer: Writer) -> None:
        self.source, self._writer = source, writer
        self._rows: dict[int, int] = {}
        self._told = 0.0

    def told(self, run: ScanRun) -> None:
        """From the scan's thread."""
        now = utc_now().timestamp()
        if run.number not in self._rows:
            self._rows[run.number] = self._writer.do(lambda: self._begin(run))
        if run.state == "running" and now - self._told < _TOLD_EVERY_S:
            return
        self._told = now
        row, values = self._rows[run.number], _values(run)
        self._writer.submit(lambda: StoredScan.objects.filter(pk=row).update(**values))

    def as_it_is(self, stored: StoredScan, run: ScanRun | None) -> StoredScan:
        """A scan with what is not in the records yet, where it is the newest: what the source says of itself, too."""
        if run is not None and self._rows.get(run.number) == stored.pk:
            for name, value in _values(run).items():
                setattr(stored, name, value)
        return stored

    def row_of(self, run: ScanRun) -> int | None:
        """The number under which a scan is recorded."""
        return self._rows.get(run.number)

    def _begin(self, run: ScanRun) -> int:
        started = dt.datetime.fromtimestamp(run.started, dt.UTC)
        made = StoredScan.objects.create(source=self.source, kind=run.kind, started_at=started, **_values(run))
        return int(made.pk)


def _values(run: ScanRun) -> dict[str, object]:
    at = run.progress
    return {
        "state": run.state, "stage": at.stage, "tables": at.tables, "done": at.done, "now": at.now[:300],
        "resumed": run.resumed, "problem": run.problem, "hint": run.hint,
        "ended_at": dt.datetime.fromtimestamp(run.ended, dt.UTC) if run.ended else None,
    }  # fmt: skip


def close_interrupted_scans() -> int:
    """Scans that a stop of the service cut off. Runs inside the writer; their parts stay."""
    return StoredScan.objects.filter(state="running").update(state="interrupted", ended_at=utc_now())
