"""People, tokens and sessions on the wire."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from pydantic import Field, RootModel

from .base import Input, Shape

Scope = Literal["ask", "release", "steward", "audit", "admin"]


class Me(Shape):
    """Who the caller is and what the token may do; sources ["*"] means all of them."""

    person: str
    token: str
    scopes: list[Scope]
    sources: list[str]


class SessionRequest(Input):
    """Console sign-in with a token."""

    token: str = Field(min_length=1, max_length=400)


class TokenRequest(Input):
    """Body of POST /tokens."""

    name: str = Field(min_length=1, max_length=80)
    person: str = Field(min_length=1, max_length=80)
    sources: list[str] = ["*"]
    scopes: list[Scope] = ["ask"]


class Token(Shape):
    """A token without its secret."""

    id: int
    name: str
    person: str
    sources: list[str]
    scopes: list[Scope]
    created_at: dt.datetime
    last_used_at: dt.datetime | None = None
    revoked_at: dt.datetime | None = None


class Tokens(RootModel[list[Token]]):
    """All tokens."""


class TokenCreated(Token):
    """With the secret, shown this once."""

    secret: str
