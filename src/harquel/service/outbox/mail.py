"""Mail by SMTP: one letter to one address at a time.

What must hold: it goes to the server of the configuration and nowhere else, to an address of this machine or of a
private network only where that says so; no server takes longer or says more than is allowed.
"""

from __future__ import annotations

import smtplib
import ssl
import time
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from typing import Any, BinaryIO, Final

from django.core.mail.backends.smtp import EmailBackend

from harquel.service.config import MailSection
from harquel.web.certificates import believed

from .outward import WHOLE_S, NotTaken, connected, cut_at, places, shut, why

_MOST_SAID: Final = 100_000
"""Bytes that a server may say in all."""


@dataclass(frozen=True)
class Mail:
    """The way to one address."""

    section: MailSection
    password: str
    to: str

    def carry(self, key: str, number: int, body: bytes, whole_s: float = WHOLE_S) -> None:
        """Raises NotTaken: lasting where the server says that it never will."""
        until = time.monotonic() + whole_s
        host, _, port = self.section.server.rpartition(":")
        host = host.strip("[]")
        line = _Line(places(host, int(port), self.section.private), host, until)
        backend = _Backend(line, self.section, self.password, host, int(port))
        guard = cut_at(until, line.cut)
        try:
            backend.open()
            assert backend.connection is not None
            again = f"Harquel-Try: {number}\r\n".encode()
            backend.connection.sendmail(self.section.sender, [self.to], again + body)
        except (smtplib.SMTPException, OSError) as error:
            raise self._not_taken(error, line) from error
        finally:
            guard.cancel()
            line.shut()
        if line.over:
            # What was cut off in the middle of its last word looks as if it had ended there.
            raise NotTaken("it did not answer in time")

    def _not_taken(self, error: smtplib.SMTPException | OSError, line: _Line) -> NotTaken:
        if said := line.fault():
            return NotTaken(said)
        match error:
            case smtplib.SMTPRecipientsRefused():
                code, text = error.recipients[self.to]
                return NotTaken(_said(code, text), lasting=500 <= code < 600)
            case smtplib.SMTPAuthenticationError():
                # Whoever runs the service sees to that; the letter waits.
                return NotTaken("the mail server does not take its user and password")
            case smtplib.SMTPResponseException():
                # A text is of this side: the server said nothing of the kind.
                lasting = 500 <= error.smtp_code < 600 and isinstance(error.smtp_error, bytes)
                lasting = lasting and not isinstance(error, smtplib.SMTPConnectError)
                return NotTaken(_said(error.smtp_code, error.smtp_error), lasting)
            case smtplib.SMTPException():
                return NotTaken("the mail server broke off, or does not encrypt")
            case _:
                return NotTaken(why(error))


def _said(code: int, text: bytes | str) -> str:
    words = text.decode("ascii", "replace") if isinstance(text, bytes) else text
    return f"the mail server answered {code} {' '.join(words.split())[:120]}".rstrip()


class _Line:
    """The one connection of a try, to addresses that were looked at."""

    def __init__(self, at: list[tuple[int, tuple[str, int]]], named: str, until: float) -> None:
        self._at, self._named, self._until = at, named, until
        self.socket: Any = None
        self.over = self.too_much = False
        self._said = 0
        self._read: list[BinaryIO] = []

    def open(self, encrypted: ssl.SSLContext | None) -> Any:
        """Raises OSError."""
        connected(self._at, self._until, partial(setattr, self, "socket"))
        return self.socket if encrypted is None else self.encrypt(encrypted)

    def encrypt(self, context: ssl.SSLContext) -> ssl.SSLSocket:
        """Raises OSError. It is known before it greets, so that a greeting without an end can be cut off."""
        greeting = context.wrap_socket(self.socket, server_hostname=self._named, do_handshake_on_connect=False)
        self.socket = greeting
        greeting.do_handshake()
        return greeting

    def read(self, line: Any) -> BinaryIO:
        """What is heard on it; a socket is closed only once this is, too."""
        found: BinaryIO = line.makefile("rb")
        self._read.append(found)
        return found

    def heard(self, count: int) -> None:
        """So many bytes more."""
        self._said += count
        if self._said > _MOST_SAID:
            self.too_much = True
            shut(self.socket)

    def cut(self) -> None:
        """Time is over."""
        self.over = True
        shut(self.socket)

    def shut(self) -> None:
        """Whatever became of it."""
        for one in self._read:
            with suppress(OSError):
                one.close()
        if self.socket is not None:
            self.socket.close()

    def fault(self) -> str:
        """Why it was ended from here, if it was."""
        if self.over or time.monotonic() >= self._until:
            return "it did not answer in time"
        return "the mail server says more than it should" if self.too_much else ""


class _Heard:
    """What a server says, counted."""

    def __init__(self, file: BinaryIO, line: _Line) -> None:
        self._file, self._line = file, line

    def readline(self, most: int) -> bytes:
        """The next line."""
        found = self._file.readline(most)
        self._line.heard(len(found))
        return found

    def close(self) -> None:
        """No more of it."""
        self._file.close()


def _spoken(line: _Line) -> type[smtplib.SMTP]:
    class Spoken(smtplib.SMTP):
        """SMTP over one line."""

        def _get_socket(self, host: str, port: int, timeout: Any) -> Any:
            return line.open(None)

        def getreply(self) -> tuple[int, bytes]:
            """What the server says."""
            if self.file is None and self.sock is not None:
                self.file = _Heard(line.read(self.sock), line)
            return super().getreply()

        def starttls(self, *, context: ssl.SSLContext | None = None) -> tuple[int, bytes]:  # type: ignore[override]
            """As of RFC 3207: what was said in clear before it counts no more."""
            assert context is not None
            self.ehlo_or_helo_if_needed()
            if not self.has_extn("starttls"):
                raise smtplib.SMTPNotSupportedError("it does not encrypt")
            code, said = self.docmd("STARTTLS")
            if code != 220:
                raise smtplib.SMTPResponseException(code, said)
            self.sock = line.encrypt(context)
            self.file = self.helo_resp = self.ehlo_resp = None
            self.esmtp_features, self.does_esmtp = {}, False
            return code, said

    return Spoken


def _spoken_encrypted(line: _Line) -> type[smtplib.SMTP]:
    class Encrypted(_spoken(line)):  # type: ignore[misc]
        """The same, encrypted before anything is said."""

        def __init__(self, host: str, port: int, context: ssl.SSLContext, **more: Any) -> None:
            self._context = context
            super().__init__(host, port, **more)

        def _get_socket(self, host: str, port: int, timeout: Any) -> Any:
            return line.open(self._context)

    return Encrypted


class _Backend(EmailBackend):
    """Django's, over one line of ours."""

    def __init__(self, line: _Line, section: MailSection, password: str, host: str, port: int) -> None:
        self._line, self._host = line, host
        super().__init__(
            host, port, section.user or "", password, section.tls == "starttls", use_ssl=section.tls == "from-start",
            timeout=WHOLE_S, ssl_keyfile="", ssl_certfile="",
        )  # fmt: skip

    @property
    def connection_class(self) -> Any:
        """What it speaks."""
        return _spoken_encrypted(self._line) if self.use_ssl else _spoken(self._line)

    @property
    def ssl_context(self) -> ssl.SSLContext:
        """Whom it believes."""
        return believed(f"https://{self._host}")
