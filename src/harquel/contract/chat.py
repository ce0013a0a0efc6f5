"""Chats in which people ask, on the wire."""

from __future__ import annotations

import datetime as dt

from pydantic import RootModel

from .base import Shape


class ChatLine(Shape):
    """A chat of the configuration."""

    name: str
    """Its name."""


class Chats(RootModel[list[ChatLine]]):
    """By name."""


class ChatCode(Shape):
    """A code by which somebody shows in a chat who they are here. It counts once."""

    chat: str
    """For which chat."""
    code: str
    """The code."""
    write: str
    """What is written there, to the service directly."""
    ends_at: dt.datetime
    """Until when it counts."""


class ChatLink(Shape):
    """Somebody of a chat who asks in somebody's name here."""

    id: int
    """Its number."""
    chat: str
    """In which chat."""
    theirs: str
    """Who they are there, by the id that the chat tells."""
    person: str
    """Who they are here."""
    token: int
    """The token that they ask by: revoked, it ends the link."""
    at: dt.datetime
    """Since when."""


class ChatLinks(RootModel[list[ChatLink]]):
    """The newest first."""
