"""Sources, their catalog, and the review of a statement on the wire."""

from __future__ import annotations

import datetime as dt

from pydantic import Field, RootModel

from .attempts import DryRun, Finding, Ruling, Verdict
from .base import Cell, Input, Shape


class SourceLine(Shape):
    """A source without anything secret; `problem` says why it cannot be asked right now."""

    name: str
    """Its name."""
    engine: str
    """What kind of database it is."""
    title: str = ""
    """What people see beside the name."""
    as_of: dt.datetime | None = None
    """The instant that questions are about; null: the present."""
    tables: int = 0
    """How many tables are exposed."""
    model: str = ""
    """The model that drafts."""
    starters: list[str] = []
    """Questions that were tried here with success."""
    destinations: list[str] = []
    """Where answers of it may be sent on to with this token, by its policy."""
    recipients: list[str] = []
    """Whom answers of it may be mailed to with this token: addresses, or @domain for all of a domain."""
    shared_days: int = 0
    """For how many days an answer of it may be shown to people without an account, by a link of this token; 0: not."""
    problem: str | None = None
    """Why it cannot be asked right now; null when it can."""
    hint: str | None = None
    """What to do about that."""
    enabled: bool = True
    """Whether it may be asked."""
    origin: str = "file"
    """Where it was declared: in the configuration (file) or over HTTP (records)."""
    where: str = ""
    """Its address, without the password; empty for those who need not know."""
    scanned_at: dt.datetime | None = None
    """When its catalog was found; null: not yet."""
    version: int = 0
    """The version of its catalog; 0: none yet."""
    scanning: bool = False
    """Whether a scan is under way."""


class SourceLines(RootModel[list[SourceLine]]):
    """All sources for a token."""


class CatalogColumn(Shape):
    """An exposed column with what the notes say about it."""

    name: str
    """Its name."""
    type: str
    """Its type, in the database's words."""
    nullable: bool
    """Whether there may be no value."""
    primary_key: bool = False
    """Whether it is part of the primary key."""
    text: str = ""
    """What it holds, by the notes."""
    unit: str | None = None
    """The unit of its figures, by the notes."""
    codes: dict[str, str] = {}
    """What its values mean, by the notes."""
    samples: list[Cell] = []
    """Frequent values, the most frequent first; none for what is personal."""
    synonyms: list[str] = []
    """Other words for it, by the notes."""
    null_means: str | None = None
    """What it means that there is no value, by the notes."""
    adds_up: bool = True
    """False where, by the notes, a sum of its figures says nothing."""
    comment: str = ""
    """The database's own comment."""
    default: str | None = None
    """What the database puts there by itself."""
    options: list[str] = []
    """The only values that the structure allows."""
    unique: bool = False
    """Whether no two rows have the same value."""
    complete: bool = False
    """Whether `samples` are all the values that there are."""
    distinct: int | None = None
    """How many different values there are; at least, where the table was sampled."""
    null_share: float | None = None
    """The share of rows without a value, between 0 and 1."""
    low: Cell = None
    """The lowest of its numbers or times."""
    high: Cell = None
    """The highest of them."""
    exposed: bool = True
    """Whether askers and models may know of it."""
    personal: bool = False
    """Whether it is treated as being about people."""
    proposed_personal: bool = False
    """Whether the scan takes it to be about people."""


class ForeignKeyShape(Shape):
    """Columns that point at another exposed table."""

    columns: list[str]
    """The columns that point."""
    table: str
    """The table that they point at."""
    references: list[str]
    """The columns there, in the same order."""
    declared_by: str = ""
    """Who declared it in the notes; empty for a key of the database."""


class CatalogTable(Shape):
    """An exposed table or view."""

    name: str
    """Its name; with the schema outside the default one."""
    kind: str
    """A table, a view or a materialized view."""
    text: str = ""
    """What a row stands for, by the notes."""
    row_count: int | None = None
    """How many rows it has; null where nobody knows."""
    columns: list[CatalogColumn]
    """Its columns."""
    foreign_keys: list[ForeignKeyShape] = []
    """Its columns that point at other tables."""
    synonyms: list[str] = []
    """Other words for it, by the notes."""
    when: str | None = None
    """The column that tells when a row happened, by the notes."""
    label: str | None = None
    """The column that names a row, by the notes."""
    default_filter: str | None = None
    """A condition that holds unless a question says otherwise, by the notes."""
    comment: str = ""
    """The database's own comment."""
    estimated: bool = False
    """Whether `row_count` is an estimate."""
    sampled: bool = False
    """Whether the scan looked at a part of its rows only."""
    exposed: bool = True
    """Whether askers and models may know of it."""
    readable: bool = True
    """Whether our account may read it."""
    problem: str = ""
    """What the scan could not do with it."""
    indexes: list[str] = []
    """Its indexes."""


class MeasureLine(Shape):
    """A figure with an agreed definition, by the notes."""

    name: str
    """What it is called."""
    text: str = ""
    """What it says, in words."""
    synonyms: list[str] = []
    """Other words for it."""
    unit: str | None = None
    """The unit of its figures."""
    owner: str = ""
    """Who answers for it."""
    version: int = 1
    """Its version."""


class CatalogShape(Shape):
    """What of a source exists for askers and models."""

    source: str
    """The source's name."""
    fingerprint: str
    """A digest of the structure."""
    scanned_at: dt.datetime
    """When it was found."""
    tables: list[CatalogTable]
    """Its tables and views."""
    measures: list[MeasureLine] = []
    """The agreed measures whose tables are among them."""
    version: int = 0
    """Its version, counted from one."""


class ReviewRequest(Input):
    """Body of POST /sources/{name}/reviews."""

    sql: str = Field(min_length=1, max_length=100_000)
    """The statement; it is not run."""
    question: str | None = Field(default=None, max_length=4000)
    """Taken, and not looked at: whether a statement answers a question is seen when that is asked."""


class ReviewShape(Shape):
    """What guard and review say about a statement that was not run."""

    verdict: Verdict
    """Whether it might run."""
    rulings: list[Ruling]
    """What the guard decided."""
    findings: list[Finding]
    """What guard and review found."""
    rewritten_sql: str | None = None
    """What would run."""
    read_back: str | None = None
    """What it does, in words, read from it."""
    dry_run: DryRun | None = None
    """The plan, where the database was asked for it."""
