"""One inquiry as the API shows it, and what is needed to make one."""

from __future__ import annotations

import datetime as dt
from typing import Any, Literal

from pydantic import Field

from .attempts import Attempt, DraftShape, Finding
from .base import Cell, Input, Shape
from .charts import Chart
from .grounds import CitedMeasure, Delivering, Delivery, Fresh, ReadLine, Since, Worded

State = Literal["queued", "working", "held", "ended"]
Outcome = Literal["answered", "clarify", "refused", "unanswerable", "failed", "cancelled"]
Trust = Literal["clear", "caution"]


class Caveat(Shape):
    """A reason for caution in the asker's words."""

    rule: str
    """The finding that it comes from."""
    message: str
    """The reason for caution."""


class ResultColumn(Shape):
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


class ResultTable(Shape):
    """Rows as arrays; integers beyond 2^53 and decimals as strings, bytes as base64."""

    columns: list[ResultColumn]
    """Its columns, in order."""
    rows: list[list[Cell]]
    """Its rows; the values of each stand in the order of the columns."""
    row_count: int
    """How many rows there are."""
    cut_by: Literal["rows", "bytes"] | None = None
    """The limit that cut the result off; null where it is whole."""


class Answer(Shape):
    """What the asker gets: a sentence, what to doubt, the table, and how it came about."""

    text: str
    """The answer in a sentence, made by us from the rows."""
    caveats: list[Caveat] = []
    """Reasons for caution; empty when it is clear."""
    remark: str = ""
    """What the figures are worth a remark for: a gap, a step, a part that is most; empty where nothing is."""
    sql: str
    """The statement that ran."""
    sql_shown: str = ""
    """The same without the row limit that is ours and nobody asked for; empty where there is none."""
    read_back: str | None = None
    """What that statement does, in words, read from it."""
    lines: list[ReadLine] = []
    """The same in lines, a part on each."""
    explanation: str = ""
    """What the model says of its draft."""
    chart: Chart | None = None
    """What is drawn of the rows, see `GET inquiries/{id}/chart`; null: a picture would say nothing."""
    chart_note: str = ""
    """What of a wish about the picture, in the question, these rows do not fit."""
    since: Since | None = None
    """What is different from the earlier answer whose statement ran again; null for any other."""
    worded: Worded | None = None
    """That a model has worded it; null: the sentence is Harquel's own."""
    fresh: Fresh | None = None
    """How fresh the data are; null where nobody can say."""
    delivery: Delivery | None = None
    """The file with all rows, where that was wanted; `table` then holds the first of them."""
    table: ResultTable
    """The rows."""
    measures: list[CitedMeasure] = []
    """The agreed measures that the figure rests on."""


class Choice(Shape):
    """One of the readings that a clarification offers; `reading` is what the question gains when it is meant so."""

    id: str
    """What to send as `choice`."""
    label: str
    """The reading, in short."""
    reading: str = ""
    """What the question gains when it is meant so."""
    question: str = ""
    """The whole question that is asked when it is chosen; empty where that is the one asked, with `reading`."""


class Clarify(Shape):
    """What we ask back."""

    question: str
    """What is asked back."""
    choices: list[Choice]
    """The readings to choose from."""


class Lasting(Shape):
    """What of an offer a steward can write into the notes, so that it holds for everybody: a word for a code, or the
    column that dates the rows of a table.
    """

    table: str
    """Of which table."""
    column: str
    """The column that holds the code, or that dates the rows."""
    word: str = ""
    """What people say; empty where it is about a time."""
    code: str = ""
    """What is stored for that."""


class Offer(Shape):
    """What a part of how the question was understood could have meant instead; a choice of it is a new inquiry."""

    id: str
    """The word to choose it by."""
    part: int
    """Which part, from 0."""
    label: str
    """What it is called."""
    question: str
    """The question that is asked when it is chosen."""
    lasting: Lasting | None = None
    """What of it can be written into the notes; null where there is nothing."""


class UnderstoodPart(Shape):
    """One part of how a question was understood."""

    text: str
    """In a few words."""
    words: list[str] = []
    """Those of the question that it stands for, as they stand there."""
    assumed: bool = False
    """Whether it narrows the rows without a word of the question for it."""


class SecondOpinion(Shape):
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
    draft: DraftShape | None = None
    """What it proposed."""
    findings: list[Finding] = []
    """What guard and review found about that."""
    rewritten_sql: str | None = None
    """What of it ran."""
    read_back: str | None = None
    """What that statement does, in words."""
    table: ResultTable | None = None
    """Its rows, where they differ."""
    reading: dict[str, Any] | None = None
    """How the question was understood, where the statement was built from that; then no model wrote it."""
    understood: list[str] = []
    """The same in a few words, part by part."""
    parts: list[UnderstoodPart] = []
    """The same with the words of the question that each part stands for."""
    instead: list[Offer] = []
    """What its parts could have meant instead, among what catalog and notes offer."""


class ProblemNote(Shape):
    """Why there is no answer, and what to do about it."""

    type: str
    """A stable word for the reason."""
    title: str
    """The reason, in a sentence."""
    hint: str = ""
    """What to do about it."""
    policy_line: str | None = None
    """The line of the policy that decided; null where none did."""


class Hold(Shape):
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


class ReleaseRequest(Input):
    """Body of POST /inquiries/{id}/release: whether the statement may run, and a word why."""

    approve: bool
    """Whether the statement may run."""
    note: str = Field(default="", max_length=1000)
    """A word why."""


class BriefedTable(Shape):
    """A table that went into the prompt, and why; `left_out` are its columns that did not."""

    name: str
    """The table."""
    columns: list[str]
    """Its columns that the model was told of."""
    reason: str
    """Why it was picked."""
    left_out: list[str] = []
    """Its columns that the model was not told of."""


class BriefingSummary(Shape):
    """What the model was told about; `tokens` is our estimate.

    `left_out` are tables that seemed to matter and did not fit, `more_tables` how many it was not shown.
    """

    tables: list[BriefedTable] = []
    """The tables that the model was told of."""
    examples: list[str] = []
    """The questions of the examples that it was shown."""
    tokens: int = 0
    """The length of the prompt, in tokens, as we estimate it."""
    left_out: list[str] = []
    """Tables that seemed to matter and did not fit."""
    more_tables: int = 0
    """How many tables it was not shown."""


class Usage(Shape):
    """What the model reported; `cost` in the currency of the configured prices, if any."""

    prompt_tokens: int = 0
    """Tokens that models read."""
    completion_tokens: int = 0
    """Tokens that they wrote."""
    calls: int = 0
    """How often they were called."""
    estimated: int = 0
    """In how many of these calls tokens were worked out, because the server did not count them."""
    cost: str | None = None
    """What that cost, where prices are configured."""


class Timings(Shape):
    """Where the time went, in milliseconds; `own_ms` is total minus queue, model and database."""

    queued_ms: float = 0
    """Waiting for its turn."""
    briefing_ms: float = 0
    """Choosing what the model is told."""
    prompt_ms: float = 0
    """Writing the prompt."""
    model_ms: float = 0
    """Waiting for models."""
    guard_ms: float = 0
    """Ruling on text and plan."""
    review_ms: float = 0
    """Reviewing draft and result."""
    database_ms: float = 0
    """Waiting for the database."""
    answer_ms: float = 0
    """Wording the answer."""
    total_ms: float = 0
    """From the question to the end."""
    own_ms: float = 0
    """The total without queue, models and database."""


class Redraft(Shape):
    """A question that has been answered, drafted again to lay both side by side."""

    inquiry: str
    """The inquiry before it, which stays as it is."""
    model: str = ""
    """The model that drafts, by its name in the configuration; empty: whoever usually does."""
    shipped: bool = False
    """Whether by the templates that ship instead of the source's own."""
    same: bool | None = None
    """Whether both gave the same rows; null where that cannot be told."""
    said: str = ""
    """What is different, in words."""


class InquiryLine(Shape):
    """One line in the list of inquiries."""

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
    follows: str | None = None
    """The id of the inquiry that it follows."""
    thread: str | None = None
    """The id of the first of those that follow one another; null where it begins anew."""


class InquiryPage(Shape):
    """A page of inquiries, newest first; `next` is the cursor of the one after it."""

    items: list[InquiryLine]
    """The inquiries, newest first."""
    next: str | None = None
    """The cursor of the page after it; null on the last one."""


class Inquiry(InquiryLine):
    """The whole of it."""

    language: str = "en"
    """The language of the question: en or de."""
    as_of: dt.datetime | None = None
    """The instant that it is about."""
    source_why: str = ""
    """Why this source is asked, where none was named and there are several."""
    answer: Answer | None = None
    """The answer, where there is one."""
    clarify: Clarify | None = None
    """What is asked back, where something is."""
    second_opinion: SecondOpinion | None = None
    """Another draft and what came of it, where one was wanted."""
    silenced: list[str] = []
    """Names of the findings that do not count this once."""
    choice: str | None = None
    """The reading that was chosen."""
    redraft: Redraft | None = None
    """Who drafted it again, and how that compares; null where it was not asked for."""
    problem: ProblemNote | None = None
    """Why there is no answer, where there is none."""
    hold: Hold | None = None
    """Why its statement waits or waited for a release."""
    briefing: BriefingSummary | None = None
    """What the model was told of."""
    attempts: list[Attempt] = []
    """The drafts and all that happened to them."""
    usage: Usage = Usage()
    """What models read and wrote."""
    timings: Timings = Timings()
    """Where the time went."""
    delivering: Delivering | None = None
    """While all rows of an answer are being written to a file: how far that has come."""
