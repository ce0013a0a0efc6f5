"""How the service is reached for a call, whatever way the call came in."""

from __future__ import annotations

from typing import Any, Protocol

from mcp.server.context import ServerRequestContext

from harquel.client import AsyncHarquel

Context = ServerRequestContext[Any, Any]


class Reach(Protocol):
    """Who calls, and where the service is."""

    def client(self, context: Context) -> AsyncHarquel:
        """With the token of whoever calls; to be entered and left."""

    def base(self, context: Context) -> str:
        """The address under which people see the console."""
