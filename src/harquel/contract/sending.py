"""Answers sent on, on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from pydantic import Field, RootModel

from .base import Input, Shape


class SendRequest(Input):
    """Body of POST /inquiries/{id}/sendings."""

    to: str = Field(min_length=1, max_length=40)
    """The destination, by its name in the configuration."""


class Sending(Shape):
    """An answer on its way to a destination. It is sent at least once, with the same id each time."""

    id: str
    """Its id, which the message bears too."""
    inquiry: str
    """The inquiry whose answer it is."""
    destination: str
    """Where to, by the configuration's name."""
    state: Literal["waiting", "arrived", "given-up"]
    """Whether it waits for its first or next try, was taken there, or is tried no more."""
    tries: int = 0
    """How often it was tried, one that is under way included."""
    asked_by: str
    """Who had it sent."""
    at: dt.datetime
    """When."""
    next_at: dt.datetime | None = None
    """When it is tried next; null where it is not."""
    ended_at: dt.datetime | None = None
    """When it arrived or was given up."""
    said: str = ""
    """Why it was not taken at the last try."""


class Sendings(RootModel[list[Sending]]):
    """The newest first."""
