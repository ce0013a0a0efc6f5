"""How a reply leaves: signed, under a key that is the same at each try, in a place or to one person alone."""

from __future__ import annotations

import hashlib
import time

from harquel.core.language.say import say
from harquel.service.outbox.outward import post
from harquel.service.outbox.signing import signed

from . import words
from .chats import Chat
from .forms import Reply, Said
from .models import StoredHeard


class Voice:
    """What is said to one message."""

    def __init__(self, chat: Chat, said: Said, heard: StoredHeard, language: str) -> None:
        self.chat, self.said, self.heard = chat, said, heard
        self._language = language
        # The same at each try.
        self.key = f"r-{hashlib.sha256(f'{chat.name} {heard.key}'.encode()).hexdigest()[:24]}"

    def say(self, message: str, revision: int = 2, alone: bool = False, **values: str | int) -> None:
        """Words of ours."""
        text = words.calm(say(self._language, message, **values))[: words.MOST]
        if alone:
            self.alone(text)
        else:
            self.post(text, revision=revision)

    def alone(self, text: str, link: str = "", said_there: bool = False) -> None:
        """To whoever said it, since it shows what they may see; `said_there`: in its place stands that it went so."""
        if self.said.direct:
            self.post(text, link)
            return
        said = self.said
        self.send(Reply(f"{self.key}-alone", 2, said.place, said.person, said.thread, True, text, link=link))
        if said_there:
            self.post(say(self._language, "chat-alone"))

    def post(self, text: str, link: str = "", revision: int = 2) -> None:
        """Where it was said."""
        said = self.said
        self.send(Reply(self.key, revision, said.place, said.person, said.thread, False, text, link=link))

    def send(self, reply: Reply) -> None:
        """Raises NotTaken."""
        section, body = self.chat.section, self.chat.form.write(reply)
        key = f"{reply.key}.{reply.revision}"
        headers = {
            "content-type": "application/json", "user-agent": "harquel",
            **signed(self.chat.secret, key, int(time.time()), body),
        }  # fmt: skip
        post(section.url, headers, body, section.private)
