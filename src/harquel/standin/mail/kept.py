"""What the simulated mail server has taken, and takes."""

from __future__ import annotations

import asyncio
import datetime as dt
from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, field
from email import message_from_bytes, policy
from email.message import EmailMessage
from typing import Any, Final, cast

from aiosmtpd.smtp import SMTP, Envelope, Session

LARGEST: Final = 12_000_000
"""Bytes of a letter."""
_KEPT: Final = 200
SLOW_S: Final = 30.0
REFUSALS: Final = {"nobody": "550 5.1.1 There is nobody of that name", "full": "452 4.2.2 The letterbox is full"}
"""What is answered for an address whose name begins so, with a hyphen or alone; `slow` keeps one waiting."""


@dataclass(frozen=True)
class Letter:
    """One of them."""

    number: int
    at: dt.datetime
    to: list[str]
    message: EmailMessage

    @property
    def subject(self) -> str:
        """As it is told."""
        return str(self.message["subject"] or "(without a subject)")

    @property
    def text(self) -> str:
        """Its plain text."""
        return self._part("plain")

    @property
    def html(self) -> str:
        """Its page, where it has one."""
        return self._part("html")

    def _part(self, kind: str) -> str:
        found = self.message.get_body((kind,))
        return str(found.get_content()) if found is not None else ""

    def parts(self) -> Iterator[tuple[str, str, str, bytes]]:
        """What goes along: its Content-ID, where it has one, name, media type and bytes."""
        for part in self.message.walk():
            if part.get_filename():
                named = str(part["content-id"] or "").strip("<>")
                content = cast("bytes", part.get_payload(decode=True) or b"")
                yield named, str(part.get_filename()), part.get_content_type(), content


@dataclass
class Box:
    """The letters, the newest first; told to aiosmtpd as what handles them."""

    letters: deque[Letter] = field(default_factory=lambda: deque(maxlen=_KEPT))
    count: int = 0

    async def handle_RCPT(
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:  # fmt: skip
        """Whether it takes letters for an address."""
        name = address.partition("@")[0].partition("-")[0].lower()
        if name == "slow":
            await asyncio.sleep(SLOW_S)
        if name in REFUSALS:
            return REFUSALS[name]
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:
        """Takes one."""
        self.count += 1
        content: Any = envelope.content
        message = message_from_bytes(content, policy=policy.default)
        self.letters.appendleft(Letter(self.count, dt.datetime.now(dt.UTC), list(envelope.rcpt_tos), message))
        return "250 OK: taken"

    def numbered(self, number: int) -> Letter | None:
        """One of those that are kept."""
        return next((one for one in self.letters if one.number == number), None)
