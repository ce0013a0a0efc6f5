"""A model server that takes as long as it is told and next to no processor: it says again what another has said.

A program of its own, so that what it takes is not counted as the measuring one's: `python -m benchmarks.replayed`.
"""

from __future__ import annotations

import argparse
import asyncio
import hashlib
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

from harquel.demo.stage import free_address

_MOST: Final = 4_000_000
"""Bytes of a request."""


class Replayed:
    """Forwards what it has not heard before, and keeps the reply."""

    def __init__(self, behind: str, takes_s: float) -> None:
        self._host, _, port = behind.partition(":")
        self._port, self._takes_s = int(port), takes_s
        self._known: dict[bytes, bytes] = {}

    async def serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """One connection, request after request."""
        try:
            while True:
                head = await reader.readuntil(b"\r\n\r\n")
                length = next(
                    (int(v) for k, _, v in (line.partition(b":") for line in head.split(b"\r\n"))
                     if k.strip().lower() == b"content-length"), 0,
                )  # fmt: skip
                body = await reader.readexactly(min(length, _MOST))
                key = hashlib.sha256(head.partition(b"\r\n")[0] + body).digest()
                found = self._known.get(key)
                if found is None:
                    found = self._known[key] = await self._asked(head, body)
                if self._takes_s:
                    await asyncio.sleep(self._takes_s)
                writer.write(found)
                await writer.drain()
        except (asyncio.IncompleteReadError, ConnectionError):
            pass
        finally:
            writer.close()

    async def _asked(self, head: bytes, body: bytes) -> bytes:
        """The reply of the one behind, whole, with its length."""
        reader, writer = await asyncio.open_connection(self._host, self._port)
        kept = [line for line in head.rstrip().split(b"\r\n") if not line.lower().startswith((b"connection", b"host"))]
        writer.write(b"\r\n".join([*kept, b"Host: behind", b"Connection: close"]) + b"\r\n\r\n" + body)
        await writer.drain()
        whole = await reader.read(-1)
        writer.close()
        first, _, said = whole.partition(b"\r\n\r\n")
        lines = first.split(b"\r\n")
        if any(line.lower() == b"transfer-encoding: chunked" for line in lines):
            said = _unchunked(said)
        kinds = [line for line in lines[1:] if line.lower().startswith(b"content-type")]
        return b"\r\n".join([lines[0], *kinds, b"Content-Length: %d" % len(said)]) + b"\r\n\r\n" + said


def _unchunked(body: bytes) -> bytes:
    found, at = list[bytes](), 0
    while True:
        size, _, _ = body[at:].partition(b"\r\n")
        length = int(size, 16)
        if not length:
            return b"".join(found)
        begins = at + len(size) + 2
        found.append(body[begins : begins + length])
        at = begins + length + 2


@contextmanager
def replayed(behind: str, takes_s: float) -> Iterator[str]:
    """Its address; `behind` is that of the simulated model."""
    address = free_address()
    process = subprocess.Popen([sys.executable, "-m", "benchmarks.replayed", behind, address, str(takes_s)])
    try:
        for _ in range(100):
            try:
                urllib.request.urlopen(f"http://{address}/healthz", timeout=1).close()
                break
            except OSError:
                time.sleep(0.05)
        yield address
    finally:
        process.terminate()
        process.wait()


async def _main(behind: str, address: str, takes_s: float) -> None:
    host, _, port = address.partition(":")
    server = await asyncio.start_server(Replayed(behind, takes_s).serve, host, int(port), limit=_MOST)
    async with server:
        await server.serve_forever()


if __name__ == "__main__":
    options = argparse.ArgumentParser()
    options.add_argument("behind")
    options.add_argument("address")
    options.add_argument("takes_s", type=float)
    given = options.parse_args()
    asyncio.run(_main(given.behind, given.address, given.takes_s))
