"""Holds the newest catalog of a source and scans again when the database has moved on."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass

from harquel.core.clock import utc_now
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.policy import Policy
from harquel.core.engines.base import Engine


@dataclass
class CatalogKeeper:
    """Scans on first use and after `forget()`; one scan at a time, the others wait for it."""

    engine: Engine
    policy: Callable[[], Policy]
    _catalog: Catalog | None = None
    _version: object = None

    def __post_init__(self) -> None:
        self._lock = threading.Lock()

    def current(self) -> Catalog:
        """The catalog, whole. Raises SourceError when the database cannot be read."""
        with self._lock:
            version = self.engine.version()
            if self._catalog is None or version != self._version:
                self._catalog = self.engine.scan(self.policy(), utc_now())
                self._version = version
            return self._catalog

    def forget(self) -> None:
        """The next use scans again."""
        with self._lock:
            self._catalog = None
