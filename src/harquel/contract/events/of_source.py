"""What can happen to a source, its documents and its examples."""

from __future__ import annotations

from typing import Literal

from ..attempts import Verdict
from ..base import Shape
from .happening import Happening


class _OfSource(Happening):
    source: str = ""
    """The source's name."""


class SourceConnected(_OfSource):
    """A source was made."""

    happened: Literal["source-connected"] = "source-connected"
    engine: str = ""
    """The database's kind."""
    where: str = ""
    """Where it is, without a secret."""


class SourceChanged(_OfSource):
    """A source was renamed, or has another title or password."""

    happened: Literal["source-changed"] = "source-changed"
    name: str = ""
    """Its name from now on."""
    title: str | None = None
    """Its title from now on."""
    password: bool = False
    """Whether it has another password."""


class SourceSwitched(_OfSource):
    """A source was switched on or off."""

    happened: Literal["source-switched"] = "source-switched"
    enabled: bool = True
    """Whether it can be asked."""


class SourceRemoved(_OfSource):
    """A source was taken away; what was asked of it stays."""

    happened: Literal["source-removed"] = "source-removed"
    inquiries_kept: int = 0
    """Inquiries that stay."""


class SourceChecked(_OfSource):
    """Reach and rights of a source's account were looked at."""

    happened: Literal["source-checked"] = "source-checked"
    verdict: str = ""
    """What came of it."""
    faults: list[str] = []
    """What is wrong, by stable words."""


class CatalogChange(Shape):
    """One difference between two versions of a catalog."""

    kind: str
    """What kind of difference."""
    table: str
    """The table."""
    column: str | None = None
    """The column; null: the table itself."""


class CatalogChanged(_OfSource):
    """A scan has found another structure."""

    happened: Literal["catalog-changed"] = "catalog-changed"
    version: int = 0
    """The number of the new version."""
    fingerprint: str = ""
    """Its fingerprint."""
    tables: int = 0
    """How many tables it has."""
    changes: list[CatalogChange] = []
    """The first differences."""


class ScanStarted(_OfSource):
    """Somebody had a source scanned."""

    happened: Literal["scan-started"] = "scan-started"
    scan: int | None = None
    """The number of the scan."""
    kind: str = ""
    """How far it goes."""


class ScanStopped(_OfSource):
    """Somebody has stopped a scan."""

    happened: Literal["scan-stopped"] = "scan-stopped"
    scan: int | None = None
    """The number of the scan."""


class DocumentChanged(_OfSource):
    """Notes or policy have a new version."""

    texts = ("text",)
    happened: Literal["document-changed"] = "document-changed"
    kind: str = ""
    """Which: notes or policy."""
    number: int = 0
    """The number of the version."""
    origin: str = ""
    """Where it came from."""
    digest: str = ""
    """The digest of its text."""


class _OfExample(_OfSource):
    texts = ("question", "sql")
    example: int | None = None
    """The number of the example."""
    state: str = ""
    """Whether it is used."""


class ExampleAdded(_OfExample):
    """An example was added."""

    happened: Literal["example-added"] = "example-added"


class ExampleChanged(_OfExample):
    """An example was changed."""

    happened: Literal["example-changed"] = "example-changed"


class ExampleRemoved(_OfExample):
    """An example was removed."""

    happened: Literal["example-removed"] = "example-removed"


class ExamplesImported(_OfSource):
    """Examples were taken in from a file."""

    happened: Literal["examples-imported"] = "examples-imported"
    added: int = 0
    """How many are new."""
    changed: int = 0
    """How many are another."""


class Reviewed(_OfSource):
    """Somebody had a statement looked at."""

    texts = ("draft",)
    happened: Literal["reviewed"] = "reviewed"
    verdict: Verdict = "refuse"
    """Whether it may run."""
    policy_line: str | None = None
    """The line of the policy that decided."""
