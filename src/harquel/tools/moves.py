"""Tells clients that what can be asked has moved: sources that come and go, catalogs that change, questions that work.

Who listens is told of what their own token sees, and no longer than it counts. By the newest version of the protocol a
client opens a stream for that; by those before it, each session is told as long as it is used.
"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Hashable
from dataclasses import dataclass
from typing import Any, Final

import anyio
import mcp_types as types
from mcp.server.session import ServerSession
from mcp.server.subscriptions import InMemorySubscriptionBus, ListenHandler, PromptsListChanged, ResourcesListChanged
from mcp.shared.exceptions import MCPError

from harquel.client import HarquelError, TokenRefused

from .reach import Context, Reach

MOST_LISTENING: Final = 64
MOST_EACH: Final = 8
"""Streams of one token."""
_MOST_SESSIONS: Final = 200
_USED_S: Final = 900.0
"""A session that nothing came from for so long is told no more."""


@dataclass(frozen=True)
class _Seen:
    resources: Hashable
    prompts: Hashable


@dataclass
class _Session:
    session: ServerSession
    context: Context
    seen: _Seen | None
    used: float


class Moves:
    """For one server. `pause_s`: seconds between two looks."""

    def __init__(self, reach: Reach, pause_s: float = 10.0) -> None:
        self._reach, self._pause_s = reach, pause_s
        self._listening: Counter[str] = Counter()
        self._sessions: dict[str, _Session] = {}

    async def _look(self, context: Context) -> _Seen:
        async with self._reach.client(context) as client:
            found = await client.sources()
        return _Seen(
            tuple((line.name, line.title, line.version, line.tables) for line in found),
            tuple((line.name, *line.starters) for line in found),
        )

    async def listen(
        self, context: Context, params: types.SubscriptionsListenRequestParams
    ) -> types.SubscriptionsListenResult:
        """One stream, until its client leaves or its token counts no more."""
        whose = _bearer(context)
        if self._listening.total() >= MOST_LISTENING or self._listening[whose] >= MOST_EACH:
            raise MCPError(types.INTERNAL_ERROR, "Too many clients listen already. Try again later.")
        bus = InMemorySubscriptionBus()
        handler = ListenHandler(bus, max_buffered_events=16)
        self._listening[whose] += 1
        try:
            async with anyio.create_task_group() as group:
                group.start_soon(self._watch, context, bus, handler)
                done = await handler(context, params)
                group.cancel_scope.cancel()
        finally:
            self._listening[whose] -= 1
            if not self._listening[whose]:
                del self._listening[whose]
        return done

    async def _watch(self, context: Context, bus: InMemorySubscriptionBus, handler: ListenHandler) -> None:
        seen: _Seen | None = None
        while True:
            try:
                now = await self._look(context)
                if seen is not None and now.resources != seen.resources:
                    await bus.publish(ResourcesListChanged())
                if seen is not None and now.prompts != seen.prompts:
                    await bus.publish(PromptsListChanged())
                seen = now
            except TokenRefused:
                handler.close()
                return
            except HarquelError:
                # The service is busy or away: what has moved is told when it is back.
                await anyio.lowlevel.checkpoint()
            await anyio.sleep(self._pause_s)

    async def begun(self, context: Context, _: Any) -> None:
        """A session of an earlier version has begun."""
        while len(self._sessions) >= _MOST_SESSIONS:
            del self._sessions[next(iter(self._sessions))]
        self._sessions[_named(context)] = _Session(context.session, context, None, time.monotonic())

    def used(self, context: Context) -> None:
        """Something came from a session."""
        if (found := self._sessions.get(_named(context))) is not None:
            found.used = time.monotonic()

    async def run(self) -> None:
        """Looks for all sessions, again and again."""
        while True:
            await anyio.sleep(self._pause_s)
            for name, one in list(self._sessions.items()):
                if time.monotonic() - one.used > _USED_S or not await self._tell(one):
                    self._sessions.pop(name, None)

    async def _tell(self, one: _Session) -> bool:
        """Whether the session is to be told again."""
        try:
            now = await self._look(one.context)
            if one.seen is not None and now.resources != one.seen.resources:
                await one.session.send_resource_list_changed()
            if one.seen is not None and now.prompts != one.seen.prompts:
                await one.session.send_prompt_list_changed()
            one.seen = now
        except TokenRefused:
            return False
        except HarquelError:
            return True
        return True


def _named(context: Context) -> str:
    """A session, as it is told apart; over standard input and output there is one."""
    return context.request.headers.get("mcp-session-id", "") if context.request is not None else ""


def _bearer(context: Context) -> str:
    """Whose call it is; over standard input and output there is one."""
    return context.request.headers.get("authorization", "") if context.request is not None else ""
