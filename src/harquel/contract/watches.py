"""Watched questions, on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from pydantic import Field, RootModel, StringConstraints

from .base import Input, Shape

Happens = Literal["always", "change", "above", "below", "by", "missing", "appears"]
To = Annotated[str, StringConstraints(min_length=1, max_length=254)]
Number = Annotated[str, StringConstraints(min_length=1, max_length=40)]


class WatchRequest(Input):
    """Body of POST /inquiries/{id}/watches."""

    when: str = Field(min_length=1, max_length=120)
    """When it is asked: "every Monday at 8:00", "weekdays at 7:30", or five fields as cron has them; by the clocks of
    the source.
    """
    tell: Happens = "always"
    """What is told: each time; what is otherwise than told last; as the figure goes above or below a line, or has moved
    by so much; when nothing is there; when rows appear.
    """
    line: Number | None = None
    """The line, or by how much: "10", with `by` also "5 %"."""
    back: Number | None = None
    """How far the figure has to go back behind the line before it may cross it anew; null: not at all."""
    to: list[To] = Field(min_length=1, max_length=10)
    """Whom it is told: destinations of the configuration, addresses of mail."""
    attach: Literal["xlsx", "csv"] | None = None
    """With mail: the rows as a file; null: none."""
    quiet: Annotated[str, StringConstraints(max_length=11)] | None = None
    """Hours in which nothing is sent, by the source's clocks: "22:00-07:00"; null: none."""
    title: str = Field(default="", max_length=200)
    """What it is called; empty: as the question."""


class WatchChange(Input):
    """Body of PATCH /watches/{id}: what is left out stays."""

    paused: bool | None = None
    """Whether it rests."""
    when: str | None = Field(default=None, min_length=1, max_length=120)
    """When it is asked."""


class WatchRun(Shape):
    """One time that it was due."""

    due_at: dt.datetime
    """The time."""
    late: bool = False
    """Whether it was caught up after that."""
    state: Literal["waiting", "running", "done"]
    """How far it is."""
    outcome: Literal["told", "quiet", "doubt", "failed", "not-sent"] | None = None
    """Told; nothing to tell; doubtful, so that no figure was told; not answered; or told to nobody."""
    why: str = ""
    """Why not."""
    inquiry: str | None = None
    """The inquiry that it made."""
    figure: str | None = None
    """The one figure of its answer."""
    tries: int = 0
    """How often it was begun."""
    ended_at: dt.datetime | None = None
    """When it was done."""


class Watch(Shape):
    """A question that is asked again by itself."""

    id: str
    """Its id."""
    title: str
    """What it is called."""
    source: str
    """The source that is asked."""
    inquiry: str
    """The inquiry whose question it is."""
    owner: str
    """By whose rights it is asked."""
    state: Literal["on", "paused", "ended"]
    """Whether it is asked, rests, or is over."""
    why_ended: str = ""
    """Why it is over."""
    when: str
    """When it is asked, as it was said."""
    cron: str
    """The same as five fields."""
    zone: str
    """The zone whose clocks they are about."""
    next_at: dt.datetime | None = None
    """When it is asked next; null: not."""
    tell: Happens
    """What is told."""
    line: str | None = None
    """The line, or by how much."""
    back: str | None = None
    """How far a figure has to go back before it may cross the line anew."""
    quiet: str | None = None
    """Hours in which nothing is sent."""
    to: list[str]
    """Whom it is told."""
    attach: Literal["xlsx", "csv"] | None = None
    """The rows as a file, with mail."""
    failures: int = 0
    """How often in a row it was not answered."""
    created_at: dt.datetime
    """Since when."""
    runs: list[WatchRun] = []
    """The last times, the newest first."""


class Watches(RootModel[list[Watch]]):
    """The newest first, each with its last run."""
