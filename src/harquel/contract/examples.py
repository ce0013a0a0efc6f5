"""The example bank of a source on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from pydantic import Field, RootModel

from .base import Input, Shape


class ExampleShape(Shape):
    """A question with SQL that is known to answer it. `state`: new, checked, stale, off."""

    id: int
    """Its number."""
    question: str
    """The question."""
    sql: str
    """The SQL that answers it."""
    tags: list[str] = []
    """Words to find it by."""
    author: str = ""
    """Who added it."""
    state: Literal["new", "checked", "stale", "off"]
    """Whether it holds on the present catalog, and whether it is used."""
    said: str = ""
    """What came of it when it was checked."""
    alike: list[int] = []
    """Numbers of examples that ask nearly the same."""
    checked_at: dt.datetime | None = None
    """When it was last checked; null: not yet."""


class Examples(RootModel[list[ExampleShape]]):
    """The bank of a source."""


class ExampleRequest(Input):
    """Body of POST /sources/{name}/examples: a pair, or an inquiry to make one of."""

    question: str | None = Field(default=None, max_length=4000)
    """The question; may be left out when an inquiry is named."""
    sql: str | None = Field(default=None, max_length=100_000)
    """The SQL that answers it; may be left out when an inquiry is named."""
    tags: list[str] = []
    """Words to find it by."""
    inquiry: str | None = None
    """The answered inquiry to make an example of."""


class ExampleChange(Input):
    """Body of PATCH /sources/{name}/examples/{id}."""

    question: str | None = Field(default=None, min_length=1, max_length=4000)
    """Another question."""
    sql: str | None = Field(default=None, min_length=1, max_length=100_000)
    """Another SQL."""
    tags: list[str] | None = None
    """Other tags."""
    off: bool | None = None
    """Whether it is left out of prompts."""


class ExampleImport(Input):
    """Body of POST /sources/{name}/examples/import: YAML or JSON Lines."""

    text: str = Field(max_length=900_000)
    """The examples."""
    form: Literal["yaml", "jsonl"] = "yaml"
    """How they are written."""


class ExampleExport(Shape):
    """The bank as text."""

    form: Literal["yaml", "jsonl"]
    """How they are written."""
    text: str
    """The examples."""


class ImportReport(Shape):
    """What an import did."""

    added: int = 0
    """How many are new."""
    changed: int = 0
    """How many were there and are otherwise now."""
    stale: list[str] = []
    """Questions whose SQL does not hold on the present catalog."""
    problems: list[str] = []
    """What could not be taken, and why."""
