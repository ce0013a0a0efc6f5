"""The tools as a client of the protocol reaches them: over HTTP by both kinds of it, and as a program."""

from __future__ import annotations

import os
import sys
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from typing import Any

import anyio
import httpx2
import mcp_types as types
from mcp import StdioServerParameters
from mcp.client import Client
from mcp.client.streamable_http import streamable_http_client

WAYS = ("http newest", "http handshake", "program newest", "program handshake")
Work = Callable[[Client], Awaitable[Any]]


@asynccontextmanager
async def opened(way: str, url: str, token: str, **options: Any) -> AsyncIterator[Client]:
    """A client, connected."""
    mode = "auto" if way.endswith("newest") else "legacy"
    if way.startswith("program"):
        environment = {**os.environ, "HARQUEL_URL": url, "HARQUEL_TOKEN": token}
        program = StdioServerParameters(
            command=sys.executable, args=["-m", "harquel", "tools", "--stdio"], env=environment
        )
        async with Client(program, mode=mode, **options) as client:
            yield client
        return
    headers = {"Authorization": f"Bearer {token}"}
    async with (
        httpx2.AsyncClient(headers=headers, timeout=120) as http,
        Client(streamable_http_client(f"{url}/mcp", http_client=http), mode=mode, **options) as client,
    ):
        yield client


def with_client(way: str, url: str, token: str, work: Work, **options: Any) -> Any:
    """What comes of some work with one."""

    async def done() -> Any:
        async with opened(way, url, token, **options) as client:
            return await work(client)

    return anyio.run(done)


def text_of(result: types.CallToolResult) -> str:
    """All that it says to people."""
    return "\n".join(c.text for c in result.content if isinstance(c, types.TextContent))
