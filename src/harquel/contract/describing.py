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
    """What the source is called from now on."""
    title: str = Field(default="", max_length=200)
    """What people see beside the name."""
    url: str | None = Field(default=None, max_length=2000)
    """Where the database is, as a URL, instead of the fields below."""
    engine: Literal["sqlite", "postgresql", "mariadb"] | None = None
    """What kind of database it is."""
    path: str | None = Field(default=None, max_length=2000)
    """The file of a SQLite database."""
    host: str | None = Field(default=None, max_length=255)
    """The server's host."""
    port: int | None = Field(default=None, ge=1, le=65535)
    """The server's port; the engine's usual one when left out."""
    database: str | None = Field(default=None, max_length=255)
    """The database on that server."""
    user: str | None = Field(default=None, max_length=255)
    """The account, which should only be able to read."""
    password: str | None = Field(default=None, max_length=1000)
    """The password, or a reference to it: env:NAME, file:PATH. Never shown again."""
    tls: Literal["prefer", "require", "verify", "off"] = "prefer"
    """How the connection is protected: as it can be, always, always and checked, or not."""
    ca: str | None = Field(default=None, max_length=2000)
    """A file with the certificates that are believed."""
    schemas: list[str] = []
    """The schemas to look at; all that the account may read when empty."""
    as_of: dt.datetime | None = None
    """The instant that questions are about; the present when left out."""
    draft: str | None = None
    """The model that drafts, by its name in the configuration."""
    workers: int = Field(default=2, ge=1, le=32)
    """How many statements may run at once."""


class SourceChange(Input):
    """Body of PATCH /sources/{name}: what is to be otherwise."""

    name: str | None = Field(default=None, pattern=NAME_PATTERN)
    """Another name."""
    title: str | None = Field(default=None, max_length=200)
    """Another title."""
    enabled: bool | None = None
    """Whether it may be asked."""
    password: str | None = Field(default=None, max_length=1000)
    """Another password, or a reference to it."""


class CheckStepShape(Shape):
    """One step of the connection check; `fault` is a stable word, empty when all is well."""

    name: str
    """What was looked at."""
    verdict: Literal["well", "warning", "failed", "skipped"]
    """How it went."""
    said: str
    """What was found."""
    remedy: str = ""
    """What to do about it, where something is to be done."""
    fault: str = ""
    """A stable word for what is wrong; empty when all is well."""
    elapsed_ms: float = 0
    """How long it took, in milliseconds."""


class CheckShape(Shape):
    """The whole check; `where` is the address without the password."""

    source: str
    """The source's name."""
    where: str
    """Its address, without the password."""
    verdict: Literal["well", "warning", "failed"]
    """The worst of its steps."""
    steps: list[CheckStepShape]
    """What was looked at, in order."""


class AccountRequest(Input):
    """Body of POST /sources/{name}/account. `whole_schema`: tables made later come along."""

    account: str = Field(default="harquel_reader", min_length=1, max_length=60)
    """What the account is to be called."""
    whole_schema: bool = False
    """Whether tables that are made later come along."""


class AccountScript(Shape):
    """SQL for an administrator of the database."""

    engine: str
    """For which kind of database it is."""
    script: str
    """The statements, for an administrator of the database to read and run."""


class ScanRequest(Input):
    """Body of POST /sources/{name}/scans. `full` looks into all values again, `changes` only into what is new."""

    kind: Literal["full", "changes"] = "full"
    """All values again, or only what is new."""


class ScanShape(Shape):
    """A scan under way or ended; `done` of `tables` are looked into, `now` is the one under way."""

    id: int
    """Its number."""
    source: str
    """The source's name."""
    kind: str
    """The first scan, a full one, or one for changes."""
    state: Literal["running", "done", "stopped", "failed", "interrupted"]
    """Whether it goes on, and how it ended."""
    stage: str
    """What it is doing."""
    tables: int = 0
    """How many tables there are to look into."""
    done: int = 0
    """How many it has looked into."""
    now: str = ""
    """The table that it is looking into."""
    resumed: int = 0
    """How many an interrupted scan had looked into already."""
    problem: str = ""
    """What went wrong."""
    hint: str = ""
    """What to do about that."""
    started_at: dt.datetime
    """When it began."""
    ended_at: dt.datetime | None = None
    """When it ended; null while it goes on."""


class Scans(RootModel[list[ScanShape]]):
    """Scans of a source, newest first."""


class VersionLine(Shape):
    """One version of a catalog."""

    number: int
    """The version, counted from one."""
    fingerprint: str
    """A digest of the structure."""
    scanned_at: dt.datetime
    """When it was found."""
    tables: int
    """How many tables it has."""


class Versions(RootModel[list[VersionLine]]):
    """Versions, newest first."""


class ChangeShape(Shape):
    """One difference between two versions."""

    kind: Literal["came", "went", "changed"]
    """Whether it came, went or became otherwise."""
    table: str
    """The table."""
    column: str = ""
    """The column; empty when the change is one of the table."""
    said: str = ""
    """What is otherwise."""


class CatalogDiff(Shape):
    """What came, went and changed."""

    source: str
    """The source's name."""
    old: int
    """The older version."""
    new: int
    """The newer version."""
    changes: list[ChangeShape]
    """What is different."""


class DocumentShape(Shape):
    """The notes or the policy of a source, as YAML; `number` counts its versions."""

    source: str
    """The source's name."""
    kind: Literal["notes", "policy"]
    """What the document is."""
    number: int
    """Its version, counted from one; 0 while there is none."""
    text: str
    """The document, as YAML."""
    who: str
    """Who wrote this version."""
    at: dt.datetime | None = None
    """When it came to count."""
    origin: str = ""
    """Where it came from: a file, a person, or an edit in place."""


class DocumentRequest(Input):
    """Body of PUT /sources/{name}/notes or /policy.

    `number` is the version that was edited: when there is a newer one by now, nothing is changed. `force`
    takes notes although they speak of tables that are not there.
    """

    text: str = Field(max_length=900_000)
    """The document, as YAML."""
    number: int | None = None
    """The version that was edited; when there is a newer one by now, nothing is changed."""
    force: bool = False
    """Take notes although they speak of tables that are not there."""


class DocumentLine(Shape):
    """One version in the history of a document."""

    number: int
    """The version."""
    who: str
    """Who wrote it."""
    at: dt.datetime
    """When it came to count."""
    origin: str
    """Where it came from."""
    said: str = ""
    """What is otherwise in it."""


class Documents(RootModel[list[DocumentLine]]):
    """The history, newest first."""


class ColumnEdit(Input):
    """What is to be said of one column; a field that is left out stays as it is."""

    text: str | None = None
    """What the column holds."""
    synonyms: list[str] | None = None
    """Other words for it."""
    unit: str | None = None
    """The unit of its figures."""
    codes: dict[str, str] | None = None
    """What its values mean."""
    null_means: str | None = None
    """What it means that there is no value."""
    adds_up: bool | None = None
    """Whether a sum of its figures says something: not of prices, levels, counters that go on."""
    exposed: bool | None = None
    """Whether askers and models may know of it."""
    personal: bool | None = None
    """Whether it is about people."""


class TableEdit(Input):
    """Body of PATCH /sources/{name}/tables/{table}: notes, exposure and personal marks in one."""

    text: str | None = None
    """What a row stands for."""
    synonyms: list[str] | None = None
    """Other words for the table."""
    when: str | None = None
    """The column that tells when a row happened."""
    label: str | None = None
    """The column that names a row."""
    default_filter: str | None = None
    """A condition that holds unless a question says otherwise."""
    exposed: bool | None = None
    """Whether askers and models may know of it."""
    columns: dict[str, ColumnEdit] = {}
    """What is to be said of its columns, by name."""


class JoinProposal(Shape):
    """A join that names and values suggest."""

    table: str
    """The table that would point."""
    column: str
    """Its column."""
    to_table: str
    """The table that it would point at."""
    to_column: str
    """The column there."""
    why: str
    """What suggests it."""


class Undescribed(Shape):
    """A column that questions touch and nobody described."""

    table: str
    """The table."""
    column: str
    """The column."""
    touched: int
    """How often statements read it."""


class CoverageShape(Shape):
    """How much of what is exposed is described; `share` between 0 and 1."""

    columns: int
    """How many columns are exposed."""
    described: int
    """How many of them are described."""
    share: float
    """Described columns of all exposed ones, between 0 and 1."""
    most_touched: list[Undescribed] = []
    """Columns that nobody described, those first that questions touch most."""
    proposed_joins: list[JoinProposal] = []
    """Joins that no key says and that names and values suggest."""


class Rotation(Shape):
    """What came of a new key for stored passwords."""

    passwords: int
    """How many were encrypted anew."""


class Removal(Shape):
    """What was removed, and what stays."""

    name: str
    """What was removed."""
    stays: str
    """What is kept of it, in a sentence."""
    kept: dict[str, Any] = {}
    """How many of each kind are kept."""
