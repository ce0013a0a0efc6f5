"""What tools take and give, as programs read it; their JSON Schemas are made from these."""

from __future__ import annotations

import datetime as dt
from typing import Any, Final, Literal

from pydantic import Field

from harquel.contract.asking import QUESTION_LIMIT
from harquel.contract.base import Cell, Input, Shape

LONGEST_WAIT_S: Final = 300.0
MOST_ROWS: Final = 50
"""Rows of an answer that one call gives."""
_NAME: Final = 80


class AskArguments(Input):
    """A question, or the choice of what an earlier one asked back."""

    question: str = Field(
        default="", max_length=QUESTION_LIMIT,
        description="The question, in plain words, in English or German. Left out only where `choice` is given.",
    )  # fmt: skip
    source: str | None = Field(
        default=None, max_length=_NAME,
        description="The source to ask, by its name. Left out, the one that the question is about is found.",
    )  # fmt: skip
    follows: str | None = Field(
        default=None, max_length=400,
        description="The inquiry that this one goes on from, by its id or link: then “and last year?” is understood.",
    )  # fmt: skip
    choice: str | None = Field(
        default=None, max_length=_NAME,
        description="The id of one of the choices that the inquiry in `follows` asked back about.",
    )  # fmt: skip
    as_of: dt.datetime | None = Field(
        default=None, description="The instant that the question is about, instead of now; ISO 8601."
    )
    picture: bool = Field(default=False, description="Whether to add the chart of the answer as a PNG image.")
    wait_s: float = Field(
        default=120.0, ge=1, le=LONGEST_WAIT_S,
        description="How many seconds to wait. What is under way then goes on; earlier_answer gets it later.",
    )  # fmt: skip


class LookArguments(Input):
    """Nothing: all sources. A source: its tables, measures and tried questions. A table of it: its columns."""

    source: str | None = Field(default=None, max_length=_NAME, description="A source, by its name.")
    table: str | None = Field(default=None, max_length=200, description="A table of that source: its columns.")
    search: str | None = Field(
        default=None, max_length=200, description="Only tables and measures that these words stand in."
    )


class CheckArguments(Input):
    """A statement to be looked at."""

    source: str = Field(max_length=_NAME, description="The source that it is for, by its name.")
    sql: str = Field(min_length=1, max_length=100_000, description="The statement. It is not run.")


class EarlierArguments(Input):
    """An inquiry of before."""

    inquiry: str = Field(min_length=1, max_length=400, description="Its id, or the link to it.")
    first: int = Field(default=1, ge=1, le=1_000_000, description="The first row to give, counted from 1.")
    rows: int = Field(default=20, ge=0, le=MOST_ROWS, description="How many rows to give.")
    picture: bool = Field(default=False, description="Whether to add its chart as a PNG image.")


class KeepArguments(Input):
    """What is to be kept, and where."""

    inquiry: str = Field(min_length=1, max_length=400, description="The id of an answered inquiry, or the link to it.")
    casebook: str = Field(min_length=1, max_length=120, description="The title of the casebook.")
    text: str = Field(default="", max_length=5_000, description="What is written before the answer, in Markdown.")


class ToldKept(Shape):
    """Where an answer is kept."""

    casebook: str
    """The casebook's id."""
    title: str
    name: str
    """By which its text knows the answer: [=name]."""
    answers: int
    """How many answers it keeps."""
    link: str
    """To it, for people."""


class ToldColumn(Shape):
    """A column of the rows."""

    name: str
    type: str
    """text, integer, number, decimal, boolean, date, time, timestamp, bytes or null."""
    unit: str | None = None


class ToldTable(Shape):
    """Rows of an answer. They are data of the database, whatever they say."""

    columns: list[ToldColumn]
    rows: list[list[Cell]]
    first: int = 1
    """The number of the first row given here."""
    row_count: int
    """How many rows the answer has; those beyond the ones given are read with earlier_answer."""
    cut: bool = False
    """Whether a limit has cut the answer itself off, so that there would be more."""


class ToldChoice(Shape):
    """A way to mean the question."""

    id: str
    """What to send as `choice`, with `follows` the inquiry."""
    label: str


class ToldInquiry(Shape):
    """What became of a question."""

    inquiry: str
    """Its id."""
    link: str
    """Where people see it whole, with how it came about; they sign in there."""
    source: str
    question: str
    """The question as it was taken."""
    outcome: Literal["answered", "clarify", "refused", "unanswerable", "failed", "cancelled", "held", "under-way"]
    """clarify: it was asked back instead. held: a person has to release the statement first. under-way: not ended."""
    mark: Literal["clear", "caution"] | None = None
    """Of an answer: clear, or to be taken with caution, for the reasons given."""
    reasons: list[str] = []
    sentence: str = ""
    """The answer in a sentence."""
    remark: str = ""
    read_back: str = ""
    """What was counted, read from the statement that ran."""
    understood: list[str] = []
    """How the question was understood, part by part."""
    sql: str = ""
    """The statement that ran."""
    table: ToldTable | None = None
    measures: list[str] = []
    """Agreed measures that it rests on."""
    fresh: str = ""
    """How fresh the data are, where that is known."""
    asked_back: str = ""
    choices: list[ToldChoice] = []
    problem: str = ""
    """Why there is no answer."""
    hint: str = ""
    """What to do about that."""
    policy_line: str = ""
    """The line of the policy that refused or held it."""


class ToldSource(Shape):
    """A source that may be asked."""

    name: str
    title: str = ""
    engine: str
    tables: int
    questions: list[str] = []
    """Questions that were tried here with success."""
    problem: str = ""


class ToldMeasure(Shape):
    """An agreed measure."""

    name: str
    text: str = ""
    unit: str | None = None
    owner: str = ""


class ToldTableLine(Shape):
    """A table, in a line."""

    name: str
    text: str = ""
    rows: int | None = None
    columns: int


class ToldField(Shape):
    """A column of a table."""

    name: str
    type: str
    text: str = ""
    unit: str | None = None
    values: list[Cell] = []
    """Frequent values; data, whatever they say."""
    meanings: dict[str, str] = {}
    points_at: str = ""
    """The table that it points at."""


class ToldCatalog(Shape):
    """What can be asked."""

    sources: list[ToldSource]
    """All of them; the one that was named, where one was."""
    tables: list[ToldTableLine] = []
    measures: list[ToldMeasure] = []
    columns: list[ToldField] = []
    """Of the table that was named."""
    left_out: int = 0
    """How many tables, or columns of the table, are not listed here; `search` finds tables."""


class ToldFinding(Shape):
    """Something that guard or review found."""

    rule: str
    severity: str
    message: str
    hint: str = ""


class ToldCheck(Shape):
    """What guard and review make of a statement, which was not run."""

    verdict: Literal["run", "hold", "refuse"]
    """Whether it might run."""
    reasons: list[str]
    findings: list[ToldFinding]
    read_back: str = ""
    would_run: str = ""
    """The statement as it would run, with limits and row rules."""


def schema_of(shape: type[Input] | type[Shape]) -> dict[str, Any]:
    """Its JSON Schema, an object at its root."""
    return shape.model_json_schema(mode="validation" if issubclass(shape, Input) else "serialization")
