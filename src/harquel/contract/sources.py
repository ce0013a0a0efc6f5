"""Sources, their catalog, and the review of a statement on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Any

from pydantic import Field, RootModel

from .base import Input, Shape
from .inquiry import DryRun, Finding, Ruling, Verdict


class SourceLine(Shape):
    """A source without anything secret; `problem` says why it cannot be asked right now."""

    name: str
    engine: str
    title: str = ""
    as_of: dt.datetime | None = None
    tables: int = 0
    model: str = ""
    starters: list[str] = []
    problem: str | None = None
    hint: str | None = None
    enabled: bool = True
    origin: str = "file"
    where: str = ""
    scanned_at: dt.datetime | None = None
    version: int = 0
    scanning: bool = False


class SourceLines(RootModel[list[SourceLine]]):
    """All sources for a token."""


class CatalogColumn(Shape):
    """An exposed column with what the notes say about it."""

    name: str
    type: str
    nullable: bool
    primary_key: bool = False
    text: str = ""
    unit: str | None = None
    codes: dict[str, str] = {}
    samples: list[Any] = []
    synonyms: list[str] = []
    null_means: str | None = None
    comment: str = ""
    default: str | None = None
    options: list[str] = []
    unique: bool = False
    complete: bool = False
    distinct: int | None = None
    null_share: float | None = None
    low: Any = None
    high: Any = None
    exposed: bool = True
    personal: bool = False
    proposed_personal: bool = False


class ForeignKeyShape(Shape):
    """Columns that point at another exposed table."""

    columns: list[str]
    table: str
    references: list[str]
    declared_by: str = ""


class CatalogTable(Shape):
    """An exposed table or view."""

    name: str
    kind: str
    text: str = ""
    row_count: int | None = None
    columns: list[CatalogColumn]
    foreign_keys: list[ForeignKeyShape] = []
    synonyms: list[str] = []
    when: str | None = None
    label: str | None = None
    default_filter: str | None = None
    comment: str = ""
    estimated: bool = False
    sampled: bool = False
    exposed: bool = True
    readable: bool = True
    problem: str = ""
    indexes: list[str] = []


class CatalogShape(Shape):
    """What of a source exists for askers and models."""

    source: str
    fingerprint: str
    scanned_at: dt.datetime
    tables: list[CatalogTable]
    version: int = 0


class ReviewRequest(Input):
    """Body of POST /sources/{name}/reviews."""

    sql: str = Field(min_length=1, max_length=100_000)
    question: str | None = Field(default=None, max_length=4000)


class ReviewShape(Shape):
    """What guard and review say about a statement that was not run."""

    verdict: Verdict
    rulings: list[Ruling]
    findings: list[Finding]
    rewritten_sql: str | None = None
    read_back: str | None = None
    dry_run: DryRun | None = None
