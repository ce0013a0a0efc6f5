"""The tools as another program calls them, for whoever sets one up: by the protocol's own client, over HTTP."""

from __future__ import annotations

import json
from collections.abc import Awaitable, Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, TypeVar

import anyio
import httpx2
import mcp_types as types
from mcp.client import Client
from mcp.client.streamable_http import streamable_http_client
from mcp.shared.exceptions import MCPError

T = TypeVar("T")
_PATIENCE_S = 330.0


class Refused(Exception):
    """The service lets nobody in, or has no such tool; `hint` says what to do."""

    def __init__(self, said: str, hint: str) -> None:
        super().__init__(said)
        self.hint = hint


@dataclass(frozen=True)
class Called:
    """What came of a call: for people, for programs, and whether it went wrong."""

    text: str
    structured: Any
    failed: bool


def listed(url: str, token: str) -> list[tuple[str, str]]:
    """The tools: name, and what each says of itself. Raises Refused."""

    async def work(client: Client) -> list[tuple[str, str]]:
        return [(tool.name, tool.description or "") for tool in (await client.list_tools()).tools]

    return _with(url, token, work)


def called(url: str, token: str, tool: str, arguments: dict[str, str]) -> Called:
    """What a tool gives; what its schema does not take as a text is read as JSON. Raises Refused."""

    async def work(client: Client) -> Called:
        schemas = {one.name: one.input_schema for one in (await client.list_tools()).tools}
        if tool not in schemas:
            raise Refused(f"There is no tool {tool}.", f"There are: {', '.join(schemas)}.")
        fields = schemas[tool].get("properties", {})
        found = await client.call_tool(tool, {n: _read(v, fields.get(n, {})) for n, v in arguments.items()})
        text = "\n".join(c.text for c in found.content if isinstance(c, types.TextContent))
        return Called(text, found.structured_content, bool(found.is_error))

    return _with(url, token, work)


def _read(value: str, field: dict[str, Any]) -> Any:
    kinds = {field.get("type"), *(one.get("type") for one in field.get("anyOf", ()))}
    if "string" in kinds:
        return value
    try:
        return json.loads(value)
    except ValueError:
        return value


def _with(url: str, token: str, work: Callable[[Client], Awaitable[T]]) -> T:
    refused: list[int] = []

    async def look(response: httpx2.Response) -> None:
        if response.status_code in (401, 403, 404, 429, 503):
            refused.append(response.status_code)

    async def done() -> T:
        async with (
            httpx2.AsyncClient(
                headers={"Authorization": f"Bearer {token}"}, timeout=_PATIENCE_S, event_hooks={"response": [look]}
            ) as http,
            Client(streamable_http_client(f"{url.rstrip('/')}/mcp", http_client=http)) as client,
        ):
            return await work(client)

    with _as_refused(url, refused):
        return anyio.run(done)


@contextmanager
def _as_refused(url: str, refused: list[int]) -> Iterator[None]:
    try:
        yield
    except* Refused as group:
        raise next(_leaves(group)) from None
    except* MCPError as group:
        first = next(_leaves(group))
        if 401 in refused:
            hint = "Give another with --token or HARQUEL_TOKEN."
            raise Refused("The token is not known, was revoked, or has come to its end.", hint) from None
        raise Refused(str(first), f"See what the service at {url} says in its log.") from None
    except* (httpx2.HTTPError, OSError):
        hint = "Start the service with “harquel serve”, or set HARQUEL_URL to where it runs."
        raise Refused(f"Nobody answers at {url}.", hint) from None


def _leaves(group: BaseExceptionGroup[Any]) -> Iterator[BaseException]:
    for one in group.exceptions:
        if isinstance(one, BaseExceptionGroup):
            yield from _leaves(one)
        else:
            yield one
