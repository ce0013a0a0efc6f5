"""Who is in the simulated chat, and what was said there."""

from __future__ import annotations

import asyncio
import itertools
from collections import deque
from dataclasses import asdict, dataclass, field
from typing import Any, Final

PEOPLE: Final = {"odo": "Odo Finch", "rhea": "Rhea Quist", "ada": "Ada Brinewell", "tam": "Tam Ellery"}
CHANNELS: Final = {"harbour": "Harbour", "office": "Office"}
HARQUEL: Final = "harquel"
_KEPT: Final = 2000


@dataclass
class Message:
    """One message; `choices` are buttons, `picture` base64 of a PNG."""

    id: str
    place: str
    thread: str
    author: str
    text: str
    number: int = 0
    revision: int = 0
    table: str = ""
    link: str = ""
    choices: list[dict[str, str]] = field(default_factory=list)
    picture: str = ""
    note: str = ""
    """What went wrong on the way to the service."""


def direct(person: str) -> str:
    """The place where somebody and the service are alone."""
    return f"direct-{person}"


class Room:
    """All of it; touched in the event loop only."""

    def __init__(self) -> None:
        self._messages: deque[Message] = deque(maxlen=_KEPT)
        self._numbers = itertools.count(1)
        self._changed = asyncio.Condition()
        self.version = 0

    def places(self, person: str) -> dict[str, str]:
        """Those that somebody sees, with their names."""
        return {**CHANNELS, direct(person): "Harquel"}

    def of(self, place: str) -> list[dict[str, Any]]:
        """What was said there, the oldest first."""
        return [asdict(one) for one in self._messages if one.place == place]

    def find(self, key: str) -> Message | None:
        """A message by its id."""
        return next((one for one in self._messages if one.id == key), None)

    async def add(self, place: str, thread: str | None, author: str, text: str, key: str = "") -> Message:
        """Something is said."""
        number = next(self._numbers)
        key = key or f"m{number}"
        made = Message(key, place, thread or key, author, text, number)
        self._messages.append(made)
        await self.changed()
        return made

    async def put(self, key: str, revision: int, place: str, thread: str, **more: Any) -> None:
        """A message of the service: new, or in the place of an earlier one, unless it is older than that."""
        found = self.find(key)
        if found is None:
            found = await self.add(place, thread, HARQUEL, "", key)
        if revision >= found.revision:
            found.revision = revision
            for name, value in more.items():
                setattr(found, name, value)
        await self.changed()

    def heard_by_service(self, thread: str) -> bool:
        """Whether the service has spoken in a thread, so that it hears what is said there."""
        return any(one.thread == thread and one.author == HARQUEL for one in self._messages)

    async def changed(self) -> None:
        """Whoever looks is told."""
        async with self._changed:
            self.version += 1
            self._changed.notify_all()

    async def wait(self, after: int) -> int:
        """The version, once it is another."""
        async with self._changed:
            await self._changed.wait_for(lambda: self.version != after)
            return self.version
