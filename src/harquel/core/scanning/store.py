"""Where versions of a catalog are kept, and what an interrupted scan had seen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Protocol

from pydantic import TypeAdapter

from harquel.core.domain.catalog import Catalog, Table

_TABLES: TypeAdapter[tuple[Table, ...]] = TypeAdapter(tuple[Table, ...])


class CatalogStore(Protocol):
    """Keeps the catalogs of one source. Called from any thread."""

    def latest(self) -> Catalog | None:
        """The newest version."""

    def save(self, catalog: Catalog) -> Catalog:
        """Keeps a catalog as the next version and returns it with its number; parts are dropped."""

    def parts(self) -> Mapping[str, Table]:
        """What a scan that did not end has seen."""

    def keep_part(self, table: Table) -> None:
        """A table whose values were looked into, in case the scan does not come to its end."""

    def drop_parts(self) -> None:
        """The scan under way is given up for good."""


class MemoryStore:
    """For scripts and tests: nothing outlives the process."""

    def __init__(self) -> None:
        self.versions: list[Catalog] = []
        self._parts: dict[str, Table] = {}

    def latest(self) -> Catalog | None:
        """See CatalogStore."""
        return self.versions[-1] if self.versions else None

    def save(self, catalog: Catalog) -> Catalog:
        """See CatalogStore."""
        numbered = replace(catalog, number=len(self.versions) + 1)
        self.versions.append(numbered)
        self._parts = {}
        return numbered

    def parts(self) -> Mapping[str, Table]:
        """See CatalogStore."""
        return dict(self._parts)

    def keep_part(self, table: Table) -> None:
        """See CatalogStore."""
        self._parts[table.name] = table

    def drop_parts(self) -> None:
        """See CatalogStore."""
        self._parts = {}


def tables_to_json(tables: tuple[Table, ...]) -> bytes:
    """Tables as JSON (RFC 8259), in UTF-8."""
    return _TABLES.dump_json(tables)


def tables_from_json(text: bytes | str) -> tuple[Table, ...]:
    """The inverse of tables_to_json. Raises pydantic.ValidationError."""
    return _TABLES.validate_json(text)
