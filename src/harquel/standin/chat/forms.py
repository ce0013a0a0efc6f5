"""The two forms in which the simulated chat can speak with the service: see docs/chat.md."""

from __future__ import annotations

import json
from typing import Any, Final, Protocol


class Form(Protocol):
    """One of them."""

    def said(self, key: str, person: str, place: str, private: bool, thread: str, text: str) -> bytes:
        """What somebody says."""

    def pressed(self, key: str, person: str, place: str, private: bool, thread: str, value: str) -> bytes:
        """A button that somebody presses."""

    def read(self, body: bytes) -> dict[str, Any]:
        """A message of the service: id, revision, place or person, thread, and what is in it."""


class Plain:
    """General JSON."""

    def said(self, key: str, person: str, place: str, private: bool, thread: str, text: str) -> bytes:
        """See Form."""
        return self._made(key, person, place, private, thread, text=text)

    def pressed(self, key: str, person: str, place: str, private: bool, thread: str, value: str) -> bytes:
        """See Form."""
        return self._made(key, person, place, private, thread, choice=value)

    def _made(self, key: str, person: str, place: str, private: bool, thread: str, **more: str) -> bytes:
        of = {"id": key, "from": {"id": person}, "in": {"id": place, "direct": private}, "thread": thread}
        return json.dumps({**of, **more}).encode()

    def read(self, body: bytes) -> dict[str, Any]:
        """See Form."""
        found = json.loads(body)
        return {
            "id": found["id"], "revision": found["revision"], "place": found.get("in"), "person": found.get("to"),
            "thread": found["thread"], "text": found["text"], "table": found["table"], "link": found["link"],
            "choices": [{"value": c["id"], "label": c["label"]} for c in found["choices"]],
            "picture": found["picture"] or "",
        }  # fmt: skip


class Buttons:
    """Slash commands and buttons."""

    def said(self, key: str, person: str, place: str, private: bool, thread: str, text: str) -> bytes:
        """See Form."""
        of = {"event": key, "user": person, "channel": place, "private": private}
        if text.startswith("/harquel"):
            return json.dumps({**of, "kind": "command", "command": "/harquel", "text": text[8:].strip()}).encode()
        return json.dumps({**of, "kind": "written", "message": key, "thread": thread, "text": text}).encode()

    def pressed(self, key: str, person: str, place: str, private: bool, thread: str, value: str) -> bytes:
        """See Form."""
        of = {"event": key, "user": person, "channel": place, "private": private}
        return json.dumps({**of, "kind": "pressed", "thread": thread, "value": value}).encode()

    def read(self, body: bytes) -> dict[str, Any]:
        """See Form."""
        found = json.loads(body)
        parts = {part["part"]: part for part in found["parts"]}
        return {
            "id": found["message"], "revision": found["revision"], "place": found.get("channel"),
            "person": found.get("user"), "thread": found["thread"], "text": parts["text"]["text"],
            "table": parts.get("fixed-width", {}).get("text", ""), "link": parts.get("link", {}).get("url", ""),
            "choices": parts.get("buttons", {}).get("buttons", []), "picture": parts.get("image", {}).get("png", ""),
        }  # fmt: skip


FORMS: Final[dict[str, Form]] = {"plain": Plain(), "buttons": Buttons()}
