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
    person_id: int | None = None
    token: str
    scopes: list[Scope]
    sources: list[str]
    roles: list[str] = []
    values: dict[str, Value] = {}


class SessionRequest(Input):
    """Console sign-in with a token."""

    token: str = Field(min_length=1, max_length=400)


class TokenRequest(Input):
    """Body of POST /tokens."""

    name: str = Field(min_length=1, max_length=80)
    person: str = Field(min_length=1, max_length=80)
    sources: list[str] = ["*"]
    scopes: list[Scope] = ["ask"]
    roles: list[str] = []
    values: dict[str, Value] = {}
    days: int | None = Field(default=365, ge=1, le=3660, description="until it ends by itself; null: never")


class Token(Shape):
    """A token without its secret."""

    id: int
    name: str
    person: str
    person_id: int | None = None
    sources: list[str]
    scopes: list[Scope]
    roles: list[str] = []
    values: dict[str, Value] = {}
    created_at: dt.datetime
    expires_at: dt.datetime | None = None
    last_used_at: dt.datetime | None = None
    revoked_at: dt.datetime | None = None


class Tokens(RootModel[list[Token]]):
    """All tokens."""


class TokenCreated(Token):
    """With the secret, shown this once."""

    secret: str
