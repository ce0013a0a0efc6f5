"""What every protocol has to say: how a call is written, what is heard of a chunk, and which models a server lists."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final, Literal, Protocol

from harquel.core.llm.model import Message, ModelProfile, Shape

MOST_TOKENS: Final = 100_000_000
MOST_PARTS: Final = 64
"""Parts of a chunk that are looked at."""
MOST_LISTED: Final = 2_000
"""Models of a server that are named."""
REPLY: Final = "reply"
"""What the shape of a reply is called where it has to have a name."""

How = Literal["whole", "length", "tool", "withheld"]
"""How a reply ended: said in full, cut off at its length, with the call of a tool, kept back by its server."""


@dataclass(frozen=True)
class Sent:
    """A call as it is sent: the path behind the server's address, headers beside the common ones, and the body."""

    path: str
    headers: Mapping[str, str]
    body: Mapping[str, Any]


@dataclass(frozen=True)
class Heard:
    """What one chunk says. Nothing of it: `known` is false."""

    text: str = ""
    how: How | None = None
    usage: Mapping[str, int] = field(default_factory=dict)
    """Of prompt_tokens, completion_tokens, reasoning_tokens and cached_tokens those that are told."""
    fault: str = ""
    """What the server says went wrong in the middle of it."""
    known: bool = True


class Hearing(Protocol):
    """One reply, heard chunk by chunk. What has another shape than the protocol says nothing; it never raises."""

    def hear(self, chunk: Mapping[str, Any]) -> Heard:
        """What the next chunk says, or a reply that is sent whole."""


class Wire(Protocol):
    """A protocol."""

    def write(self, profile: ModelProfile, messages: Iterable[Message], shape: Shape | None) -> Sent:
        """The call. The same conversation gives the same bytes."""

    def hearing(self) -> Hearing:
        """For one reply."""

    def keys(self, profile: ModelProfile) -> dict[str, str]:
        """The headers that say who calls."""

    def listed(self, said: Mapping[str, Any]) -> list[str]:
        """The names in what a server answers to GET models."""


def mapping(value: object) -> Mapping[str, Any]:
    """A value where it is an object, otherwise one without anything."""
    return value if isinstance(value, dict) else {}


def several(value: object) -> list[Mapping[str, Any]]:
    """The objects in a list, no more than are looked at."""
    return [one for one in value[:MOST_PARTS] if isinstance(one, dict)] if isinstance(value, list) else []


def text(value: object) -> str:
    """A value where it is a text."""
    return value if isinstance(value, str) else ""


def tokens(said: Mapping[str, Any], **names: str) -> dict[str, int]:
    """Counts by our names from theirs: figures that are none, negative or beyond belief are left out."""
    found = {}
    for ours, theirs in names.items():
        value = said.get(theirs)
        if isinstance(value, int) and not isinstance(value, bool) and 0 <= value <= MOST_TOKENS:
            found[ours] = value
    return found


def named(said: Mapping[str, Any], under: str, key: str) -> list[str]:
    """The names of models in a list of objects."""
    listed = said.get(under)
    models = [mapping(one) for one in listed[:MOST_LISTED]] if isinstance(listed, list) else []
    return [text(one.get(key))[:200] for one in models if text(one.get(key))]


def fault_of(chunk: Mapping[str, Any]) -> str:
    """What an object says that is an error, in few words; empty for one that is none."""
    error = chunk.get("error")
    if not error:
        return ""
    told = mapping(error)
    words = text(told.get("message")) or text(error) or text(told.get("status")) or text(told.get("type"))
    return " ".join((words or "an error without words").split())[:200]
