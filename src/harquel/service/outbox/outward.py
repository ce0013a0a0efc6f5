"""A request to somebody else's server, within bounds.

What must hold: no request goes to an address of this machine or of a private network unless the destination says so,
whatever its name resolves to at that moment: it is resolved once, every address is looked at, and the connection goes
to one of those. Nothing is followed, and nobody takes longer or says more than is allowed.
"""

from __future__ import annotations

import http.client
import ipaddress
import socket
import ssl
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from functools import partial
from typing import Final
from urllib.parse import urlsplit

from harquel.web.certificates import believed

WHOLE_S: Final = 15.0
"""Seconds for all of it, names and all."""


_MOST_TRIED: Final = 4
"""Addresses of a name that are tried."""


class NotTaken(Exception):
    """Whoever it was for did not take it; `str` says why. `lasting`: trying again is no use."""

    def __init__(self, said: str, lasting: bool = False) -> None:
        super().__init__(said)
        self.lasting = lasting


def post(url: str, headers: Mapping[str, str], body: bytes, private: bool, whole_s: float = WHOLE_S) -> None:
    """Raises NotTaken."""
    parts = urlsplit(url)
    host, encrypted = parts.hostname or "", parts.scheme == "https"
    port = parts.port or (443 if encrypted else 80)
    until = time.monotonic() + whole_s
    pinned = places(host, port, private)
    path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
    line = _Pinned(host, port, pinned, url if encrypted else None, until)
    guard = cut_at(until, line.cut)
    try:
        line.request("POST", path, body, {"Host": _host(host, parts.port), **headers})
        # With its status and headers it has said all that is wanted; nothing of its body is read.
        status = line.getresponse().status
    except (OSError, http.client.HTTPException) as error:
        raise NotTaken("it did not answer in time" if time.monotonic() >= until else why(error)) from error
    finally:
        guard.cancel()
        line.close()
    if line.over:
        # What was cut off in the middle of its headers looks as if it had ended there.
        raise NotTaken("it did not answer in time")
    if not 200 <= status < 300:
        # 410: it wants none of these any more. Where it leads on to is followed by nobody.
        raise NotTaken(f"it answered {status}", lasting=status == 410 or 300 <= status < 400)


def _host(host: str, port: int | None) -> str:
    named = f"[{host}]" if ":" in host else host
    return f"{named}:{port}" if port is not None else named


def places(host: str, port: int, private: bool) -> list[tuple[int, tuple[str, int]]]:
    """Where it is, each address looked at. Raises NotTaken: nowhere, or where nobody out there has any business."""
    try:
        told = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise NotTaken("its name leads nowhere") from error
    found = list(dict.fromkeys((family, (str(at[0]), int(at[1]))) for family, _, _, _, at in told))
    if not private and not all(_public(address) for _, (address, _) in found):
        raise NotTaken("its name leads to an address of this machine or of a private network", lasting=True)
    return [(int(family), at) for family, at in found[:_MOST_TRIED]]


def cut_at(until: float, cut: Callable[[], None]) -> threading.Timer:
    """Cuts a line then, unless it is cancelled before: one byte every few seconds would be no timeout of a socket's."""
    guard = threading.Timer(max(0.1, until - time.monotonic()), cut)
    guard.daemon = True
    guard.start()
    return guard


def connected(
    places: Sequence[tuple[int, tuple[str, int]]], until: float, known: Callable[[socket.socket], None]
) -> None:
    """A connection to the first of these that answers; each is `known` before it is tried. Raises OSError."""
    fault: OSError = OSError("it has no address")
    for family, at in places:
        line = socket.socket(family, socket.SOCK_STREAM)
        line.settimeout(max(0.1, until - time.monotonic()))
        known(line)
        try:
            line.connect(at)
        except OSError as error:
            line.close()
            fault = error
        else:
            return
    raise fault


def _public(address: str) -> bool:
    """Whether it is an address of the open network, whatever it is wrapped in."""
    try:
        found = ipaddress.ip_address(address.partition("%")[0])
    except ValueError:
        return False
    if isinstance(found, ipaddress.IPv6Address):
        inside = found.ipv4_mapped or found.sixtofour or (found.teredo[1] if found.teredo else None)
        if inside is None and found in ipaddress.ip_network("64:ff9b::/96"):
            inside = ipaddress.IPv4Address(int(found) & 0xFFFFFFFF)
        if inside is not None and not _public(str(inside)):
            return False
    return found.is_global and not found.is_multicast and not found.is_reserved and not found.is_unspecified


class _Pinned(http.client.HTTPConnection):
    """To addresses that were looked at, whatever the name says now."""

    def __init__(
        self, host: str, port: int, places: list[tuple[int, tuple[str, int]]], encrypted: str | None, until: float
    ) -> None:  # fmt: skip
        super().__init__(host, port)
        self._until = until
        self._named, self._places, self._encrypted = host, places, encrypted
        self.over = False

    def connect(self) -> None:
        """To the first that answers. Raises OSError."""
        connected(self._places, self._until, partial(setattr, self, "sock"))
        line = self.sock
        if self._encrypted is not None:
            # Known before it greets, so that a greeting without an end can be cut off.
            greeting = believed(self._encrypted).wrap_socket(
                line, server_hostname=self._named, do_handshake_on_connect=False
            )
            self.sock = greeting
            greeting.do_handshake()

    def cut(self) -> None:
        """Ends whatever goes on."""
        self.over = True
        shut(self.sock)


def shut(line: socket.socket | None) -> None:
    """Nothing is said or heard on it any more."""
    if line is not None:
        with suppress(OSError):
            line.shutdown(socket.SHUT_RDWR)


def why(error: Exception) -> str:
    """A fault of a line, in words."""
    if isinstance(error, ssl.SSLError):
        return "its certificate is not one that is believed, or it does not encrypt"
    if isinstance(error, TimeoutError):
        return "it did not answer in time"
    if isinstance(error, ConnectionRefusedError):
        return "nobody listens there"
    return "the connection broke, or what it said cannot be understood"
