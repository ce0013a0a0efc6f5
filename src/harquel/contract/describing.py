"""Connecting and describing a source on the wire: checks, scans, versions, notes, examples, starters."""

from __future__ import annotations

import datetime as dt
from typing import Any, Literal

from pydantic import Field, RootModel

from .base import Input, Shape

NAME_PATTERN = r"^[a-z][a-z0-9_-]{0,39}$"
"""What a source may be called."""


class SourceRequest(Input):
    """Body of POST /sources. Either `url`, or `engine` with its fields; a password is kept encrypted.

    `password` is the password itself or a reference (env:NAME, file:PATH); it is never shown again.
    """

    name: str = Field(pattern=NAME_PATTERN)
    title: str = Field(default="", max_length=200)
    url: str | None = Field(default=None, max_length=2000)
    engine: Literal["sqlite", "postgresql", "mariadb"] | None = None
    path: str | None = Field(default=None, max_length=2000)
    host: str | None = Field(default=None, max_length=255)
    port: int | None = Field(default=None, ge=1, le=65535)
    database: str | None = Field(default=None, max_length=255)
    user: str | None = Field(default=None, max_length=255)
    password: str | None = Field(default=None, max_length=1000)
    tls: Literal["prefer", "require", "verify", "off"] = "prefer"
    ca: str | None = Field(default=None, max_length=2000)
    schemas: list[str] = []
    as_of: dt.datetime | None = None
    draft: str | None = None
    workers: int = Field(default=2, ge=1, le=32)


class SourceChange(Input):
    """Body of PATCH /sources/{name}: what is to be otherwise."""

    name: str | None = Field(default=None, pattern=NAME_PATTERN)
    title: str | None = Field(default=None, max_length=200)
    enabled: bool | None = None
    password: str | None = Field(default=None, max_length=1000)


class CheckStepShape(Shape):
    """One step of the connection check; `fault` is a stable word, empty when all is well."""

    name: str
    verdict: Literal["well", "warning", "failed", "skipped"]
    said: str
    remedy: str = ""
    fault: str = ""
    elapsed_ms: float = 0


class CheckShape(Shape):
    """The whole check; `where` is the address without the password."""

    source: str
    where: str
    verdict: Literal["well", "warning", "failed"]
    steps: list[CheckStepShape]


class AccountRequest(Input):
    """Body of POST /sources/{name}/account. `whole_schema`: tables made later come along."""

    account: str = Field(default="harquel_reader", min_length=1, max_length=60)
    whole_schema: bool = False


class AccountScript(Shape):
    """SQL for an administrator of the database."""

    engine: str
    script: str


class ScanRequest(Input):
    """Body of POST /sources/{name}/scans. `full` looks into all values again, `changes` only into what is new."""

    kind: Literal["full", "changes"] = "full"


class ScanShape(Shape):
    """A scan under way or ended; `done` of `tables` are looked into, `now` is the one under way."""

    id: int
    source: str
    kind: str
    state: Literal["running", "done", "stopped", "failed", "interrupted"]
    stage: str
    tables: int = 0
    done: int = 0
    now: str = ""
    resumed: int = 0
    problem: str = ""
    hint: str = ""
    started_at: dt.datetime
    ended_at: dt.datetime | None = None


class Scans(RootModel[list[ScanShape]]):
    """Scans of a source, newest first."""


class VersionLine(Shape):
    """One version of a catalog."""

    number: int
    fingerprint: str
    scanned_at: dt.datetime
    tables: int


class Versions(RootModel[list[VersionLine]]):
    """Versions, newest first."""


class ChangeShape(Shape):
    """One difference between two versions."""

    kind: Literal["came", "went", "changed"]
    table: str
    column: str = ""
    said: str = ""


class CatalogDiff(Shape):
    """What came, went and changed."""

    source: str
    old: int
    new: int
    changes: list[ChangeShape]


class DocumentShape(Shape):
    """The notes or the policy of a source, as YAML; `number` counts its versions."""

    source: str
    kind: Literal["notes", "policy"]
    number: int
    text: str
    who: str
    at: dt.datetime | None = None
    origin: str = ""


class DocumentRequest(Input):
    """Body of PUT /sources/{name}/notes or /policy.

    `number` is the version that was edited: when there is a newer one by now, nothing is changed. `force`
    takes notes although they speak of tables that are not there.
    """

    text: str = Field(max_length=900_000)
    number: int | None = None
    force: bool = False


class DocumentLine(Shape):
    """One version in the history of a document."""

    number: int
    who: str
    at: dt.datetime
    origin: str
    said: str = ""


class Documents(RootModel[list[DocumentLine]]):
    """The history, newest first."""


class ColumnEdit(Input):
    """What is to be said of one column; a field that is left out stays as it is."""

    text: str | None = None
    synonyms: list[str] | None = None
    unit: str | None = None
    codes: dict[str, str] | None = None
    null_means: str | None = None
    exposed: bool | None = None
    personal: bool | None = None


class TableEdit(Input):
    """Body of PATCH /sources/{name}/tables/{table}: notes, exposure and personal marks in one."""

    text: str | None = None
    synonyms: list[str] | None = None
    when: str | None = None
    label: str | None = None
    default_filter: str | None = None
    exposed: bool | None = None
    columns: dict[str, ColumnEdit] = {}


class JoinProposal(Shape):
    """A join that names and values suggest."""

    table: str
    column: str
    to_table: str
    to_column: str
    why: str


class Undescribed(Shape):
    """A column that questions touch and nobody described."""

    table: str
    column: str
    touched: int


class CoverageShape(Shape):
    """How much of what is exposed is described; `share` between 0 and 1."""

    columns: int
    described: int
    share: float
    most_touched: list[Undescribed] = []
    proposed_joins: list[JoinProposal] = []


class ExampleShape(Shape):
    """A question with SQL that is known to answer it. `state`: new, checked, stale, off."""

    id: int
    question: str
    sql: str
    tags: list[str] = []
    author: str = ""
    state: Literal["new", "checked", "stale", "off"]
    said: str = ""
    alike: list[int] = []
    checked_at: dt.datetime | None = None


class Examples(RootModel[list[ExampleShape]]):
    """The bank of a source."""


class ExampleRequest(Input):
    """Body of POST /sources/{name}/examples: a pair, or an inquiry to make one of."""

    question: str | None = Field(default=None, max_length=4000)
    sql: str | None = Field(default=None, max_length=100_000)
    tags: list[str] = []
    inquiry: str | None = None


class ExampleChange(Input):
    """Body of PATCH /sources/{name}/examples/{id}."""

    question: str | None = Field(default=None, min_length=1, max_length=4000)
    sql: str | None = Field(default=None, min_length=1, max_length=100_000)
    tags: list[str] | None = None
    off: bool | None = None


class ExampleImport(Input):
    """Body of POST /sources/{name}/examples/import: YAML or JSON Lines."""

    text: str = Field(max_length=900_000)
    form: Literal["yaml", "jsonl"] = "yaml"


class ExampleExport(Shape):
    """The bank as text."""

    form: Literal["yaml", "jsonl"]
    text: str


class ImportReport(Shape):
    """What an import did."""

    added: int = 0
    changed: int = 0
    stale: list[str] = []
    problems: list[str] = []


class Removal(Shape):
    """What was removed, and what stays."""

    name: str
    stays: str
    kept: dict[str, Any] = {}
