"""One inquiry as the API shows it, and what is needed to make one."""

from __future__ import annotations

import datetime as dt
from typing import Any, Literal

from pydantic import Field, field_validator

from .base import Input, Shape

State = Literal["queued", "working", "held", "ended"]
Outcome = Literal["answered", "clarify", "refused", "unanswerable", "failed", "cancelled"]
Trust = Literal["clear", "caution"]
Verdict = Literal["run", "hold", "refuse"]
Severity = Literal["info", "warning", "error"]

QUESTION_LIMIT = 4000
"""Longest question, in code points."""


class InquiryRequest(Input):
    """Body of POST /inquiries. `wait_s` is in seconds; `as_of` overrides the source's "now".

    `choice` is the id of a reading that the inquiry in `follows` asked back about; then the question may be left out.
    `silence` names findings of review that are not to count this once; a caveat says so.
    """

    question: str = Field(default="", max_length=QUESTION_LIMIT)
    source: str | None = None
    follows: str | None = None
    choice: str | None = None
    as_of: dt.datetime | None = None
    silence: list[str] = Field(default=[], max_length=20)
    wait_s: float = Field(default=0, ge=0, le=120)

    @field_validator("as_of")
    @classmethod
    def _reckonable(cls, at: dt.datetime | None) -> dt.datetime | None:
        """Periods reach back and forth from it: near the ends of all time there is nothing to reckon with."""
        if at is not None and not 1000 <= at.year <= 8999:
            raise ValueError("as_of lies between the years 1000 and 8999")
        return at


class Finding(Shape):
    """One observation on a draft or a result; start and end are code points of the draft."""

    rule: str
    severity: Severity
    message: str
    hint: str = ""
    start: int | None = None
    end: int | None = None


class Ruling(Shape):
    """What the guard decided on the text or on the plan, and the policy line that decided."""

    on: Literal["text", "plan"]
    verdict: Verdict
    policy_line: str
    reason: str


class DraftShape(Shape):
    """The SQL that a model proposed, in its own writing."""

    sql: str
    explanation: str
    model: str


class DryRun(Shape):
    """The plan: steps in words, rows it expects to touch, cost in the engine's unit if it has one."""

    steps: list[str]
    rows: int | None = None
    cost: float | None = None


class RunFigures(Shape):
    """What the run brought back; `bytes` is the size of the values, `elapsed_ms` the worker's clock."""

    row_count: int
    bytes: int
    elapsed_ms: float


class Change(Shape):
    """A clause that a draft added to the one before it, or took out."""

    kind: Literal["added", "removed"]
    text: str


class Attempt(Shape):
    """One draft and all that happened to it; `changes` against the draft before it."""

    number: int
    draft: DraftShape | None = None
    rulings: list[Ruling] = []
    findings: list[Finding] = []
    changes: list[Change] = []
    rewritten_sql: str | None = None
    dry_run: DryRun | None = None
    run: RunFigures | None = None
    error: str | None = None


class Caveat(Shape):
    """A reason for caution in the asker's words."""

    rule: str
    message: str


class ResultColumn(Shape):
    """A column of the answer; `unit` when the notes say it.

    `role` tells numbers that are no figures: keys and years, which are written as they are. `decimals` is how many
    show each of its values (see contract/figures.py); None where the column holds no broken numbers.
    """

    name: str
    type: str
    unit: str | None = None
    role: Literal["key", "year"] | None = None
    decimals: int | None = None


class ResultTable(Shape):
    """Rows as arrays; integers beyond 2^53 and decimals as strings, bytes as base64."""

    columns: list[ResultColumn]
    rows: list[list[Any]]
    row_count: int
    cut_by: Literal["rows", "bytes"] | None = None


class CitedMeasure(Shape):
    """An agreed definition that the figure rests on."""

    name: str
    text: str = ""
    owner: str = ""
    version: int = 1


class Answer(Shape):
    """What the asker gets: a sentence, what to doubt, the table, and how it came about."""

    text: str
    caveats: list[Caveat] = []
    sql: str
    read_back: str | None = None
    explanation: str = ""
    chart: dict[str, Any] | None = None
    table: ResultTable
    measures: list[CitedMeasure] = []


class Choice(Shape):
    """One of the readings that a clarification offers; `reading` is what the question gains when it is meant so."""

    id: str
    label: str
    reading: str = ""


class Clarify(Shape):
    """What we ask back."""

    question: str
    choices: list[Choice]


class SecondOpinion(Shape):
    """Another draft for the same question, and whether its result says the same.

    `agrees` is None where the two could not be compared; `said` tells what differs, or why not. `table` is there
    when the results differ.
    """

    model: str
    agrees: bool | None = None
    said: str = ""
    draft: DraftShape | None = None
    findings: list[Finding] = []
    rewritten_sql: str | None = None
    read_back: str | None = None
    table: ResultTable | None = None


class ProblemNote(Shape):
    """Why there is no answer, and what to do about it."""

    type: str
    title: str
    hint: str = ""
    policy_line: str | None = None


class Hold(Shape):
    """Why a statement waits, since when, and what became of it; `approved` is None until somebody decided."""

    policy_line: str
    reason: str
    since: dt.datetime
    approved: bool | None = None
    by: str | None = None
    note: str = ""


class ReleaseRequest(Input):
    """Body of POST /inquiries/{id}/release: whether the statement may run, and a word why."""

    approve: bool
    note: str = Field(default="", max_length=1000)


class BriefedTable(Shape):
    """A table that went into the prompt, and why; `left_out` are its columns that did not."""

    name: str
    columns: list[str]
    reason: str
    left_out: list[str] = []


class BriefingSummary(Shape):
    """What the model was told about; `tokens` is our estimate.

    `left_out` are tables that seemed to matter and did not fit, `more_tables` how many it was not shown.
    """

    tables: list[BriefedTable] = []
    examples: list[str] = []
    tokens: int = 0
    left_out: list[str] = []
    more_tables: int = 0


class Usage(Shape):
    """What the model reported; `cost` in the currency of the configured prices, if any."""

    prompt_tokens: int = 0
    completion_tokens: int = 0
    calls: int = 0
    cost: str | None = None


class Timings(Shape):
    """Where the time went, in milliseconds; `own_ms` is total minus queue, model and database."""

    queued_ms: float = 0
    briefing_ms: float = 0
    prompt_ms: float = 0
    model_ms: float = 0
    guard_ms: float = 0
    review_ms: float = 0
    database_ms: float = 0
    answer_ms: float = 0
    total_ms: float = 0
    own_ms: float = 0


class InquiryLine(Shape):
    """One line in the list of inquiries."""

    id: str
    state: State
    outcome: Outcome | None = None
    trust: Trust | None = None
    source: str
    question: str
    asked_by: str
    asked_at: dt.datetime


class InquiryPage(Shape):
    """A page of inquiries, newest first; `next` is the cursor of the one after it."""

    items: list[InquiryLine]
    next: str | None = None


class Inquiry(InquiryLine):
    """The whole of it."""

    standalone_question: str | None = None
    language: str = "en"
    as_of: dt.datetime | None = None
    follows: str | None = None
    answer: Answer | None = None
    clarify: Clarify | None = None
    second_opinion: SecondOpinion | None = None
    silenced: list[str] = []
    choice: str | None = None
    problem: ProblemNote | None = None
    hold: Hold | None = None
    briefing: BriefingSummary | None = None
    attempts: list[Attempt] = []
    usage: Usage = Usage()
    timings: Timings = Timings()
