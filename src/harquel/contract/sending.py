"""Answers sent on, on the wire."""

from __future__ import annotations

import datetime as dt
import re
from typing import Final, Literal

from pydantic import Field, RootModel, model_validator

from .base import Input, Shape

ADDRESS: Final = r"^[A-Za-z0-9.!#$%&'*+/=?^_`{|}~-]{1,64}@[A-Za-z0-9]([A-Za-z0-9-]*[A-Za-z0-9])?(\.[A-Za-z0-9-]+)*$"
"""One plain address of mail, as forms of the web take it: no name, no list, no quotes, no line break."""


class SendRequest(Input):
    """Body of POST /inquiries/{id}/sendings."""

    to: str = Field(min_length=1, max_length=254)
    """The destination, by its name in the configuration; or an address of mail."""
    attach: Literal["xlsx", "csv"] | None = None
    """With mail: the rows that the answer shows as a file, a workbook or CSV; null: none."""

    @model_validator(mode="after")
    def _usable(self) -> SendRequest:
        if "@" in self.to and re.fullmatch(ADDRESS, self.to) is None:
            raise ValueError("to is no address of mail")
        if "@" not in self.to and self.attach is not None:
            raise ValueError("only mail has files attached")
        return self


class Sending(Shape):
    """An answer or a casebook on its way to a destination. It is sent at least once, with the same id each time."""

    id: str
    """Its id, which the message bears too."""
    inquiry: str | None = None
    """The inquiry whose answer it is; null for a casebook."""
    casebook: str | None = None
    """The casebook that it is; null for an answer."""
    destination: str
    """Where to, by the configuration's name; or the address of mail."""
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
