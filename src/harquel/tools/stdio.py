"""The tools over standard input and output, for clients that start a program: it talks to the service by the client."""

from __future__ import annotations

from typing import Final

import anyio
from mcp.server.stdio import stdio_server

from harquel.client import AsyncHarquel

from .reach import Context
from .server import build

_PAUSE_S: Final = 30.0
"""Seconds between two looks at whether something has moved."""


class _OneToken:
    """The service at an address, with the token that the program was started with."""

    def __init__(self, url: str, token: str) -> None:
        self._url, self._token = url, token

    def client(self, _: Context) -> AsyncHarquel:
        """One for each call."""
        return AsyncHarquel(self._url, self._token)

    def base(self, _: Context) -> str:
        """The service's own address."""
        return self._url.rstrip("/")


def serve(url: str, token: str) -> None:
    """Until standard input ends."""

    async def _served() -> None:
        tools = build(_OneToken(url, token), _PAUSE_S)
        async with stdio_server() as (incoming, outgoing), anyio.create_task_group() as group:
            group.start_soon(tools.moves.run)
            await tools.server.run(incoming, outgoing, tools.server.create_initialization_options())
            group.cancel_scope.cancel()

    anyio.run(_served)
