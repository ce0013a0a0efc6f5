"""People, tokens and sessions on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from pydantic import Field, RootModel

from .base import Input, Shape

Scope = Literal["ask", "release", "steward", "audit", "admin"]


Value = str | int | float | list[str | int | float]


class Me(Shape):
    """Who the caller is and what the token may do; sources ["*"] means all of them.

    Row rules of policies ask for roles, and their conditions for values by name.
    """

    person: str
    """The person's name."""
    person_id: int | None = None
    """The number under which the person is known here, whatever the name."""
    token: str
    """The token's name."""
    scopes: list[Scope]
    """What the token may do."""
    sources: list[str]
    """The sources that it may be used with."""
    roles: list[str] = []
    """The roles that row rules of policies ask for."""
    values: dict[str, Value] = {}
    """The values that conditions of row rules ask for, by name."""


class SessionRequest(Input):
    """Console sign-in with a token."""

    token: str = Field(min_length=1, max_length=400)
    """The secret of a token."""


class TokenRequest(Input):
    """Body of POST /tokens."""

    name: str = Field(min_length=1, max_length=80)
    """What the token is called in lists and in the ledger."""
    person: str = Field(min_length=1, max_length=80)
    """In whose name it asks."""
    sources: list[str] = ["*"]
    """The sources that it may be used with; ["*"] for all."""
    scopes: list[Scope] = ["ask"]
    """What it may do."""
    roles: list[str] = []
    """Roles of the person, for row rules and approvals of policies."""
    values: dict[str, Value] = {}
    """Values for the conditions of row rules, by name."""
    days: int | None = Field(default=365, ge=1, le=3660)
    """After how many days it ends by itself; null: never."""


class VisitRequest(Input):
    """Body of POST /visits."""

    visitor: str = Field(min_length=1, max_length=60)
    """Who it is, as one's own program knows them: each is a person of their own here, who sees what they asked."""
    sources: list[str] = Field(default=["*"], min_length=1, max_length=100)
    """The sources that it is for, of those of one's token; ["*"] for all of them."""
    minutes: int = Field(default=15, ge=1, le=60)
    """How long it lasts."""


class Visit(Shape):
    """A token for a short while, to be handed to a page."""

    token: str
    """What the page sends in the Authorization header."""
    person: str
    """In whose name it asks."""
    sources: list[str]
    """The sources that it may be used with."""
    expires_at: dt.datetime
    """When it ends."""
    page: str
    """The page for a frame; the token goes behind it as `#token=…`, where no server sees it."""


class Token(Shape):
    """A token without its secret."""

    id: int
    """Its number."""
    name: str
    """What it is called."""
    person: str
    """In whose name it asks."""
    person_id: int | None = None
    """The number of that person."""
    sources: list[str]
    """The sources that it may be used with; ["*"] for all."""
    scopes: list[Scope]
    """What it may do."""
    roles: list[str] = []
    """Roles of the person."""
    values: dict[str, Value] = {}
    """Values for the conditions of row rules, by name."""
    created_at: dt.datetime
    """When it was made."""
    expires_at: dt.datetime | None = None
    """When it ends by itself; null: never."""
    last_used_at: dt.datetime | None = None
    """When it was last used; null: never."""
    revoked_at: dt.datetime | None = None
    """When it was revoked; null while it is good."""


class Tokens(RootModel[list[Token]]):
    """All tokens."""


class TokenCreated(Token):
    """With the secret, shown this once."""

    secret: str
    """What goes into the Authorization header; shown this once."""
