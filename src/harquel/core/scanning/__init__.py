"""Keeps the catalog of a source: scans, versions, and a cheap look whether it still holds."""

from .diff import Change, compare
from .keeper import CatalogKeeper, ScanRun
from .scan import Progress, ScanOrder, run_scan
from .store import CatalogStore, MemoryStore, tables_from_json, tables_to_json

__all__ = [
    "CatalogKeeper",
    "CatalogStore",
    "Change",
    "MemoryStore",
    "Progress",
    "ScanOrder",
    "ScanRun",
    "compare",
    "run_scan",
    "tables_from_json",
    "tables_to_json",
]
