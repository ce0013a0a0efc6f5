"""Server-sent events, line by line.

Our own few lines and not a library: a deadline is looked at on every line that comes, the empty ones that keep a
connection alive too, and those no library of ours would give away.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any

from harquel.contract.events import Event, event_of


@dataclass(frozen=True)
class StreamEvent:
    """One event of an inquiry. `number` resumes a stream; pieces of streamed text have none."""

    kind: str
    number: int | None
    facts: dict[str, Any] = field(default_factory=dict)
    texts: dict[str, str | None] = field(default_factory=dict)
    at: str = ""
    piece: str = ""
    anew: bool = False
    """Of a piece: what came before it does not count, the reply begins again."""

    @property
    def what(self) -> Event | None:
        """What it tells, as a shape of its own; None for a piece, and for a kind of another version."""
        return event_of(self.kind, self.facts)


class EventParser:
    """Feed it lines; it gives an event at each empty one."""

    def __init__(self) -> None:
        self._kind, self._number, self._data = "", "", ""

    def feed(self, line: str) -> StreamEvent | None:
        """The event that this line completes, if it does."""
        if line:
            name, _, value = line.partition(":")
            value = value.removeprefix(" ")
            if name == "event":
                self._kind = value
            elif name == "id":
                self._number = value
            elif name == "data":
                self._data += value
            return None
        kind, number, data = self._kind, self._number, self._data
        self.__init__()  # type: ignore[misc]
        if not data:
            return None
        body = json.loads(data)
        return StreamEvent(
            kind, int(number) if number else None, body.get("facts", {}), body.get("texts", {}),
            body.get("at", ""), body.get("text", ""), bool(body.get("anew")),
        )  # fmt: skip
