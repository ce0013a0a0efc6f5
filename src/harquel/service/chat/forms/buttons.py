"""A chat with slash commands and buttons: three kinds of events come in, messages made of parts go out."""

from __future__ import annotations

import base64
import json
from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from .message import Part, Reply, Said
from .plain import Id


class _Event(Part):
    event: Id
    """Its id, the same when it is told again."""
    user: Id
    channel: Id
    private: bool = False


class _Written(_Event):
    kind: Literal["written"]
    message: Id
    thread: Id | None = None
    text: str
    by_program: bool = False


class _Command(_Event):
    kind: Literal["command"]
    command: str
    text: str = ""


class _Pressed(_Event):
    kind: Literal["pressed"]
    thread: Id
    value: Id


class _Else(_Event):
    kind: Literal["joined", "left", "renamed"]


_EVENT = TypeAdapter[_Written | _Command | _Pressed | _Else](
    Annotated[_Written | _Command | _Pressed | _Else, Field(discriminator="kind")]
)


class Buttons:
    """The form."""

    def read(self, body: bytes) -> Said | None:
        """See ChatForm. What stands behind a command is what somebody says, as a thread of its own."""
        found = _EVENT.validate_json(body)
        match found:
            case _Written():
                thread = found.thread or found.message
                return Said(
                    found.event, found.user, found.channel, found.private, thread, found.text,
                    automated=found.by_program,
                )  # fmt: skip
            case _Command():
                text = found.text or "help"
                return Said(found.event, found.user, found.channel, found.private, found.event, text)
            case _Pressed():
                return Said(found.event, found.user, found.channel, found.private, found.thread, "", found.value)
            case _Else():
                return None

    def write(self, reply: Reply) -> bytes:
        """See ChatForm."""
        parts: list[dict[str, object]] = [{"part": "text", "text": reply.text}]
        if reply.table:
            parts.append({"part": "fixed-width", "text": reply.table})
        if reply.picture:
            parts.append({"part": "image", "png": base64.b64encode(reply.picture).decode()})
        if reply.choices:
            buttons = [{"label": c.label[:75], "value": c.value} for c in reply.choices]
            parts.append({"part": "buttons", "buttons": buttons})
        if reply.link:
            parts.append({"part": "link", "url": reply.link})
        where = {"user": reply.person} if reply.alone else {"channel": reply.place}
        made = {"message": reply.key, "revision": reply.revision, **where, "thread": reply.thread, "parts": parts}
        return json.dumps(made, ensure_ascii=False).encode()
