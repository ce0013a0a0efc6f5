"""What is said in a chat, whatever form it comes or goes in."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Protocol

from pydantic import BaseModel, ConfigDict


class Part(BaseModel):
    """A part of a message as a chat sends it: what else stands there is of no interest."""

    model_config = ConfigDict(extra="ignore", strict=True, frozen=True)


@dataclass(frozen=True)
class Said:
    """Something that somebody said there. `thread` is the id of the message that began it; `pressed` the value of a
    button of ours; `automated`: said by a program.
    """

    key: str
    person: str
    place: str
    direct: bool
    thread: str
    text: str
    pressed: str = ""
    automated: bool = False


@dataclass(frozen=True)
class Choice:
    """One of several to choose from, by a button or by its number."""

    value: str
    label: str


@dataclass(frozen=True)
class Reply:
    """A message of ours. One with the key of an earlier one takes its place, unless its `revision` is lower. Where
    `alone`, it goes to `person` and nobody else, wherever that is.
    """

    key: str
    revision: int
    place: str
    person: str
    thread: str
    alone: bool
    text: str
    table: str = ""
    link: str = ""
    choices: tuple[Choice, ...] = ()
    picture: bytes = field(default=b"", repr=False)
    """PNG, or nothing."""


class ChatForm(Protocol):
    """How one kind of chat writes both."""

    def read(self, body: bytes) -> Said | None:
        """None for what is nothing to reply to. Raises ValueError for what does not fit."""

    def write(self, reply: Reply) -> bytes:
        """One message of ours."""
