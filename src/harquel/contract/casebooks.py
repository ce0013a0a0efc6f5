"""Casebooks, on the wire: kept collections of answers with text between them."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from pydantic import Field, RootModel, StringConstraints

from .base import Input, Shape
from .charts import Chart, DrawWish
from .grounds import ReadLine
from .inquiry import Caveat, ResultTable, Trust

TEXT_LIMIT = 40_000
"""Characters of a casebook's text."""
Reader = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
AnswerName = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
Title = Annotated[str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True)]


class CasebookRequest(Input):
    """Body of POST /casebooks."""

    title: Title
    """What it is called."""
    text: str = Field(default="", max_length=TEXT_LIMIT)
    """Its text, in Markdown; `[=name]` is a figure of an answer, alone in a paragraph the whole answer."""
    readers: list[Reader] = Field(default=[], max_length=100)
    """Who may read it, by their names; "*": everybody who may sign in."""
    language: Literal["en", "de"] = "en"
    """In which it says what it says itself."""


class CasebookChange(Input):
    """Body of PATCH /casebooks/{id}: what is left out stays."""

    version: int = Field(ge=1)
    """The version that it changes: so that nobody writes over what they have not seen."""
    title: Title | None = None
    """What it is called."""
    text: str | None = Field(default=None, max_length=TEXT_LIMIT)
    """Its text."""
    readers: list[Reader] | None = Field(default=None, max_length=100)
    """Who may read it."""
    drop: list[AnswerName] = Field(default=[], max_length=100)
    """Answers that it keeps no more."""


class KeepInCasebook(Input):
    """Body of POST /casebooks/{id}/answers."""

    inquiry: str = Field(min_length=1, max_length=64)
    """An answered inquiry of one's own."""
    name: AnswerName | None = None
    """By which the text refers to it; null: made of its question."""
    text: str = Field(default="", max_length=5_000)
    """What is written before it."""


class KeepTitled(Input):
    """Body of POST /inquiries/{id}/casebooks."""

    title: Title
    """What the casebook of one's own is called; it is made where there is none."""
    text: str = Field(default="", max_length=5_000)
    """What is written before the answer."""
    language: Literal["en", "de"] = "en"
    """In which a new one says what it says itself."""


class CasebookRun(Input):
    """Body of POST /casebooks/{id}/runs."""

    names: list[AnswerName] = Field(default=[], max_length=100)
    """Which answers are asked again; none: all."""
    way: Literal["again", "anew"] = "again"
    """`again`: the same statement; `anew`: the question as it was understood, its times moved along."""


class CasebookForm(Input):
    """What of GET /casebooks/{id}/file is wished."""

    form: Literal["html", "md"] = "html"
    """A page that stands by itself, or Markdown."""


class ShownPicture(DrawWish):
    """What of GET /inquiries/{id}/shown/picture is wished."""

    narrow: str | None = None
    """1: for a phone."""


class CasebookPicture(ShownPicture):
    """What of GET /casebooks/{id}/answers/{name}/picture is wished."""

    version: Annotated[str, StringConstraints(pattern=r"^[0-9]{1,6}$")] | None = None
    """Of which version, for its owner; null: as it is now."""
    of: str = Field(default="", max_length=64)
    """Anything that changes with what is shown, so that a browser does not show one of before."""


class CasebookSend(Input):
    """Body of POST /casebooks/{id}/sendings."""

    to: str = Field(min_length=1, max_length=254)
    """An address of mail."""


class ShownAnswer(Shape):
    """An answer as it is shown to somebody who need not be the one who asked."""

    inquiry: str
    """The inquiry."""
    state: Literal["shown", "under-way", "no-answer", "not-for-you"]
    """Whether it is shown; why not."""
    said: str = ""
    """Why not, and what to do about it; beside a shown one what came of asking it again."""
    mine: bool = False
    """Whether whoever looks has asked it."""
    question: str = ""
    """The question, to be asked by oneself where the answer is not shown; empty for a source that one has not."""
    source: str = ""
    """The source; empty for one that one has not."""
    asked_by: str = ""
    """Who asked."""
    asked_at: dt.datetime | None = None
    """When."""
    as_of: dt.datetime | None = None
    """The instant that it is about."""
    language: str = "en"
    """In which it was answered."""
    text: str = ""
    """The answer in a sentence."""
    trust: Trust | None = None
    """Whether it is clear."""
    mark: str = ""
    """The same in words."""
    caveats: list[Caveat] = []
    """Reasons for caution."""
    remark: str = ""
    """What the figures are worth a remark for."""
    since: str = ""
    """What is different from the answer before it, in words."""
    moved: bool | None = None
    """Whether anything is; null where there is none before it, or nobody can tell."""
    table: ResultTable | None = None
    """Its rows."""
    chart: Chart | None = None
    """What is drawn of them."""
    lines: list[ReadLine] = []
    """What its statement does, a part on each line."""
    sql: str = ""
    """Its statement."""


class CasebookAnswer(Shape):
    """An answer that is kept, by the name that the text knows it by."""

    name: str
    """The name."""
    answer: ShownAnswer
    """What is shown of it."""
    under_way: str | None = None
    """The inquiry that asks it again; null: none does."""


class CasebookBlock(Shape):
    """A part of the text: HTML that does nothing, or an answer as a whole."""

    html: str = ""
    """The text, its figures filled in."""
    name: str | None = None
    """The answer that stands here; null: it is text."""
    shows: list[Literal["answer", "chart", "table"]] = []
    """What of that answer."""
    source: str = ""
    """As it was written."""
    missing: list[str] = []
    """Why figures of it could not be filled in."""


class CasebookLine(Shape):
    """A casebook in the list."""

    id: str
    """Its id."""
    title: str
    """What it is called."""
    owner: str
    """Whose it is."""
    mine: bool
    """Whether that is whoever looks."""
    readers: list[str]
    """Who may read it."""
    answers: int
    """How many answers it keeps."""
    version: int
    """How often it was written, the newest."""
    changed_at: dt.datetime
    """When that was."""


class Casebooks(RootModel[list[CasebookLine]]):
    """One's own and those that one may read, the last changed first."""


class Casebook(CasebookLine):
    """A casebook, as far as it is for whoever looks."""

    text: str
    """Its text as it was written."""
    language: str
    """In which it says what it says itself."""
    blocks: list[CasebookBlock]
    """The same, to be shown."""
    kept: list[CasebookAnswer]
    """Its answers, in the order in which they were kept."""
    typed: dict[str, list[str]] = {}
    """Figures of answers that stand in the text as they were typed, and will not move along: those of each name."""
    run_at: dt.datetime | None = None
    """When it was last asked again; null: never."""


class CasebookVersion(Shape):
    """One time that it was written."""

    version: int
    """Its number."""
    at: dt.datetime
    """When."""
    by: str
    """By whom."""
    what: Literal["made", "written", "kept", "dropped", "asked-again", "restored"]
    """What was done."""
    names: list[str] = []
    """To which answers."""


class CasebookVersions(RootModel[list[CasebookVersion]]):
    """The newest first."""
