"""A chat in general JSON: one object a message, both ways."""

from __future__ import annotations

import base64
import json
from typing import Annotated

from pydantic import Field, StringConstraints

from .message import Part, Reply, Said

Id = Annotated[str, StringConstraints(min_length=1, max_length=200)]


class _From(Part):
    id: Id
    automated: bool = False


class _In(Part):
    id: Id
    direct: bool = False


class _Message(Part):
    id: Id
    sender: _From = Field(alias="from")
    place: _In = Field(alias="in")
    thread: Annotated[str, StringConstraints(max_length=200)] | None = None
    text: str = ""
    choice: Annotated[str, StringConstraints(max_length=200)] = ""


class Plain:
    """The form."""

    def read(self, body: bytes) -> Said | None:
        """See ChatForm."""
        found = _Message.model_validate_json(body)
        return Said(
            found.id, found.sender.id, found.place.id, found.place.direct, found.thread or found.id, found.text,
            found.choice, found.sender.automated,
        )  # fmt: skip

    def write(self, reply: Reply) -> bytes:
        """See ChatForm."""
        where = {"to": reply.person} if reply.alone else {"in": reply.place}
        made = {
            "id": reply.key, "revision": reply.revision, **where, "thread": reply.thread, "text": reply.text,
            "table": reply.table, "link": reply.link,
            "choices": [{"id": c.value, "label": c.label} for c in reply.choices],
            "picture": base64.b64encode(reply.picture).decode() if reply.picture else None,
        }  # fmt: skip
        return json.dumps(made, ensure_ascii=False).encode()
