"""An inquiry and all that comes of it, as the core works on it.

What people and programs are shown is made from these in one place (service/inquiries/shapes.py); how they are kept is
record.py beside this.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field
from typing import Any, Literal

from harquel.core.domain.again import Before, Since
from harquel.core.domain.chart import Chart
from harquel.core.domain.clarify import Choice, Clarify
from harquel.core.domain.delivery import Delivery
from harquel.core.domain.earlier import Earlier
from harquel.core.domain.findings import Finding, Ruling
from harquel.core.domain.fresh import Fresh
from harquel.core.domain.redraft import Redraft
from harquel.core.domain.spent import Timings, Usage
from harquel.core.domain.understood import Offer, ReadLine, UnderstoodPart
from harquel.core.domain.worded import Worded

State = Literal["queued", "working", "held", "ended"]
Outcome = Literal["answered", "clarify", "refused", "unanswerable", "failed", "cancelled"]
Trust = Literal["clear", "caution"]


@dataclass(kw_only=True)
class Draft:
    """The SQL that a model proposed, in its own writing."""

    sql: str
    """The statement, as the model wrote it."""
    explanation: str
    """What the model says of it."""
    model: str
    """The model's name."""
    template: str = ""
    """By which template it was asked for: whose that is, and a digest of its text."""
    reused: str = ""
    """The inquiry for which it was drafted before; empty: for this one."""


@dataclass(kw_only=True)
class DryRun:
    """The plan: steps in words, rows it expects to touch, cost in the engine's unit if it has one."""

    steps: list[str]
    """The plan, a step a line."""
    rows: int | None = None
    """How many rows the database expects to read; null where it does not say."""
    cost: float | None = None
    """What it expects that to cost, in its own unit; null where it has none."""


@dataclass(kw_only=True)
class RunFigures:
    """What the run brought back; `bytes` is the size of the values, `elapsed_ms` the worker's clock."""

    row_count: int
    """How many rows came back."""
    bytes: int
    """The size of their values."""
    elapsed_ms: float
    """How long the statement ran, in milliseconds."""


@dataclass(kw_only=True)
class Change:
    """A clause that a draft added to the one before it, or took out."""

    kind: Literal["added", "removed"]
    """Whether it came or went."""
    text: str
    """The clause."""


@dataclass(kw_only=True)
class Attempt:
    """One draft and all that happened to it; `changes` against the draft before it."""

    number: int
    """Counted from one."""
    draft: Draft | None = None
    """What the model proposed; null where no SQL could be told apart."""
    rulings: list[Ruling] = field(default_factory=list)
    """What the guard decided."""
    findings: list[Finding] = field(default_factory=list)
    """What guard and review found."""
    changes: list[Change] = field(default_factory=list)
    """What is different from the draft before it."""
    rewritten_sql: str | None = None
    """What runs: our rendering, with limits and row rules."""
    dry_run: DryRun | None = None
    """The plan."""
    run: RunFigures | None = None
    """What the run brought back; null where nothing ran."""
    error: str | None = None
    """What the database said against it."""


@dataclass(kw_only=True)
class Caveat:
    """A reason for caution in the asker's words."""

    rule: str
    """The finding that it comes from."""
    message: str
    """The reason for caution."""


@dataclass(kw_only=True)
class ResultColumn:
    """A column of the answer; `unit` when the notes say it.

    `role` tells numbers that are no figures: keys and years, which are written as they are. `decimals` is how many
    show each of its values (see contract/figures.py); None where the column holds no broken numbers.
    """

    name: str
    """Its name in the result."""
    type: str
    """What its values are: text, integer, number, decimal, boolean, date, time, timestamp, bytes, or null for none."""
    unit: str | None = None
    """The unit of its figures, where the notes say it."""
    role: Literal["key", "year"] | None = None
    """What numbers are that are no figures: keys and years are written as they are."""
    decimals: int | None = None
    """How many decimals show each of its values; null where it holds no broken numbers."""


@dataclass(kw_only=True)
class ResultTable:
    """Rows as arrays; integers beyond 2^53 and decimals as strings, bytes as base64."""

    columns: list[ResultColumn]
    """Its columns, in order."""
    rows: list[list[Any]]
    """Its rows; the values of each stand in the order of the columns."""
    row_count: int
    """How many rows there are."""
    cut_by: Literal["rows", "bytes"] | None = None
    """The limit that cut the result off; null where it is whole."""


@dataclass(kw_only=True)
class CitedMeasure:
    """An agreed definition that the figure rests on."""

    name: str
    """What it is called."""
    text: str = ""
    """What it says, in words."""
    owner: str = ""
    """Who answers for it."""
    version: int = 1
    """Its version."""


@dataclass(kw_only=True)
class Answer:
    """What the asker gets: a sentence, what to doubt, the table, and how it came about."""

    text: str
    """The answer in a sentence, made by us from the rows."""
    caveats: list[Caveat] = field(default_factory=list)
    """Reasons for caution; empty when it is clear."""
    remark: str = ""
    """What the figures are worth a remark for: a gap, a step, a part that is most; empty where nothing is."""
    sql: str
    """The statement that ran."""
    sql_shown: str = ""
    """The same without the row limit that is ours and nobody asked for; empty where there is none."""
    read_back: str | None = None
    """What that statement does, in words, read from it."""
    lines: list[ReadLine] = field(default_factory=list)
    """The same in lines, a part on each."""
    explanation: str = ""
    """What the model says of its draft."""
    table: ResultTable
    """The rows."""
    measures: list[CitedMeasure] = field(default_factory=list)
    """The agreed measures that the figure rests on."""
    chart: Chart | None = None
    """What is drawn of the rows; None: a picture would say nothing."""
    chart_note: str = ""
    """What of a wish about the picture these rows do not fit."""
    since: Since | None = None
    """What is different from the earlier answer whose statement ran again."""
    worded: Worded | None = None
    """That a model has worded it; None: the sentence is ours."""
    fresh: Fresh | None = None
    """How fresh the data are; None where nobody can say."""
    delivery: Delivery | None = None
    """The file with all rows, where that was wanted; `table` then holds the first of them."""


@dataclass(kw_only=True)
class SecondOpinion:
    """Another way to the same figure: a draft of another model, or a control that we built from a reading.

    `agrees` is None where the two could not be compared; `said` tells what differs, or why not. `table` is there
    when the results differ.
    """

    model: str
    """The model that was asked."""
    agrees: bool | None = None
    """Whether its result says the same; null where the two could not be compared."""
    said: str = ""
    """What differs, or why they could not be compared."""
    draft: Draft | None = None
    """What it proposed."""
    findings: list[Finding] = field(default_factory=list)
    """What guard and review found about that."""
    rewritten_sql: str | None = None
    """What of it ran."""
    read_back: str | None = None
    """What that statement does, in words."""
    table: ResultTable | None = None
    """Its rows, where they differ."""
    reading: dict[str, Any] | None = None
    """How the question was understood, where the statement was built from that; then no model wrote it."""
    understood: list[str] = field(default_factory=list)
    """The same in a few words, part by part."""
    parts: list[UnderstoodPart] = field(default_factory=list)
    """The same with the words of the question that each part stands for."""
    instead: list[Offer] = field(default_factory=list)
    """What its parts could have meant instead, among what catalog and notes offer."""


@dataclass(kw_only=True)
class ProblemNote:
    """Why there is no answer, and what to do about it."""

    type: str
    """A stable word for the reason."""
    title: str
    """The reason, in a sentence."""
    hint: str = ""
    """What to do about it."""
    policy_line: str | None = None
    """The line of the policy that decided; null where none did."""


@dataclass(kw_only=True)
class Hold:
    """Why a statement waits, since when, and what became of it; `approved` is None until somebody decided."""

    policy_line: str
    """The line of the policy that holds it."""
    reason: str
    """Why, in a sentence."""
    since: dt.datetime
    """Since when it waits."""
    approved: bool | None = None
    """Whether it was let run; null until somebody decided."""
    by: str | None = None
    """Who decided."""
    note: str = ""
    """What they said about it."""


@dataclass(kw_only=True)
class BriefedTable:
    """A table that went into the prompt, and why; `left_out` are its columns that did not."""

    name: str
    """The table."""
    columns: list[str]
    """Its columns that the model was told of."""
    reason: str
    """Why it was picked."""
    left_out: list[str] = field(default_factory=list)
    """Its columns that the model was not told of."""


@dataclass(kw_only=True)
class BriefingSummary:
    """What the model was told about; `tokens` is our estimate.

    `left_out` are tables that seemed to matter and did not fit, `more_tables` how many it was not shown.
    """

    tables: list[BriefedTable] = field(default_factory=list)
    """The tables that the model was told of."""
    examples: list[str] = field(default_factory=list)
    """The questions of the examples that it was shown."""
    tokens: int = 0
    """The length of the prompt, in tokens, as we estimate it."""
    left_out: list[str] = field(default_factory=list)
    """Tables that seemed to matter and did not fit."""
    more_tables: int = 0
    """How many tables it was not shown."""


@dataclass(kw_only=True)
class Inquiry:
    """One question on its way from asker to answer, with all that happened to it."""

    id: str
    """Its id."""
    state: State
    """Where it stands."""
    outcome: Outcome | None = None
    """How it ended; null until then."""
    trust: Trust | None = None
    """Whether the answer is clear or to be taken with caution; null without an answer."""
    source: str
    """The source that was asked."""
    question: str
    """The question, in the asker's words."""
    asked_by: str
    """Who asked."""
    asked_at: dt.datetime
    """When."""
    standalone_question: str | None = None
    """The question, as it was understood with the one before it or with a choice; null where that is the same."""
    language: str = "en"
    """The language of the question: en or de."""
    as_of: dt.datetime | None = None
    """The instant that it is about."""
    follows: str | None = None
    """The id of the inquiry that it follows."""
    source_why: str = ""
    """Why this source is asked, where none was named and there are several."""
    between: list[Choice] = field(default_factory=list)
    """Sources of which one is to be chosen first: then nothing is asked of a database or a model."""
    answer: Answer | None = None
    """The answer, where there is one."""
    clarify: Clarify | None = None
    """What is asked back, where something is."""
    second_opinion: SecondOpinion | None = None
    """Another draft and what came of it, where one was wanted."""
    silenced: list[str] = field(default_factory=list)
    """Names of the findings that do not count this once."""
    choice: str | None = None
    """The reading that was chosen."""
    sight: str = ""
    """What existed for whoever asked (see Terms.sight), where something was asked back."""
    earlier: Earlier | None = None
    """The inquiry that this one follows, until what is asked stands by itself."""
    redraft: Redraft | None = None
    """Who drafted it again, by which templates, and how that compares; None where it was not asked for."""
    again: Before | None = None
    """The earlier answer whose statement is to run again, until it has."""
    problem: ProblemNote | None = None
    """Why there is no answer, where there is none."""
    hold: Hold | None = None
    """Why its statement waits or waited for a release."""
    briefing: BriefingSummary | None = None
    """What the model was told of."""
    attempts: list[Attempt] = field(default_factory=list)
    """The drafts and all that happened to them."""
    usage: Usage = field(default_factory=Usage)
    """What models read and wrote."""
    timings: Timings = field(default_factory=Timings)
    """Where the time went."""

    @property
    def wants_whole(self) -> bool:
        """Whether all rows of an earlier answer are wanted, as a file, and have not been written yet."""
        return self.again is not None and self.again.whole
