"""How long the service waits for a request: one that is sent by halves does not hold a connection for ever."""

from __future__ import annotations

import asyncio
from typing import Any, Final

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

HEAD_S: Final = 10.0
"""Seconds for the head of a request, from its first byte, and for the first byte of a connection."""
BODY_S: Final = 30.0
"""Seconds for its body, of a megabyte at most."""
_LATE: Final = (
    b"HTTP/1.1 408 Request Timeout\r\ncontent-type: application/problem+json\r\nconnection: close\r\n\r\n"
    b'{"type": "/problems/too-slow", "title": "The request did not arrive in time.", "status": 408, '
    b'"hint": "Send it again."}'
)


class PatientProtocol(H11Protocol):
    """uvicorn's protocol with an end to its patience."""

    _timer: asyncio.TimerHandle | None = None
    _waits_for: object = None

    def connection_made(self, transport: Any) -> None:
        """Somebody who says nothing at all goes as well."""
        super().connection_made(transport)
        self._wait("head", HEAD_S)

    def data_received(self, data: bytes) -> None:
        """Looks at what is still to come after each piece; the clock is not set anew by a piece."""
        super().data_received(data)
        state = self.conn.their_state
        if state is h11.IDLE:
            self._wait("head", HEAD_S)
        elif state is h11.SEND_BODY:
            self._wait("body", BODY_S)
        else:
            self._done()

    def connection_lost(self, exc: Exception | None) -> None:
        """Nobody is left to wait for."""
        self._done()
        super().connection_lost(exc)

    def _wait(self, what: str, seconds: float) -> None:
        if self._waits_for != what:
            self._done()
            self._waits_for = what
            self._timer = self.loop.call_later(seconds, self._too_slow)

    def _done(self) -> None:
        self._waits_for = None
        if self._timer is not None:
            self._timer.cancel()
            self._timer = None

    def _too_slow(self) -> None:
        self._timer = None
        if not self.transport.is_closing():
            if self.conn.our_state is h11.IDLE:
                self.transport.write(_LATE)
            self.transport.close()
