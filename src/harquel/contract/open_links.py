"""Open links, on the wire: an answer or a casebook shown to people without an account."""

from __future__ import annotations

import datetime as dt

from pydantic import Field, RootModel

from .base import Input, Shape


class OpenLinkRequest(Input):
    """Body of POST /inquiries/{id}/open-links and POST /casebooks/{id}/open-links."""

    days: int = Field(default=7, ge=1, le=365)
    """How long it holds; no longer than the policy of each source lets it."""
    note: str = Field(default="", max_length=200)
    """For whom it is, as a note to oneself."""


class OpenLink(Shape):
    """A page that shows what it was made of to whoever has its address, for a time."""

    id: str
    """Its id, which is not its address."""
    title: str
    """What it shows: the question, or the casebook's title."""
    inquiry: str | None = None
    """The inquiry whose answer it shows; null for a casebook."""
    casebook: str | None = None
    """The casebook that it shows; null for an answer."""
    made_by: str
    """Who made it."""
    made_at: dt.datetime
    """When: what it shows is of then."""
    until: dt.datetime
    """How long it holds."""
    note: str = ""
    """For whom it is."""
    holds: bool
    """Whether it shows anything."""
    why_ended: str = ""
    """Why not."""
    opened: int = 0
    """How often it was opened; at most once a second is counted."""
    opened_at: dt.datetime | None = None
    """When last; null: never."""


class OpenLinkMade(OpenLink):
    """A new one, with its address, which is told this once."""

    url: str
    """Its address: whoever has it sees the page."""


class OpenLinks(RootModel[list[OpenLink]]):
    """The newest first."""
