"""What clients are told in their log of what happens here, from the level on that they asked for."""

from __future__ import annotations

import warnings
from typing import Any, Final, get_args

import mcp_types as types
from mcp.shared.exceptions import MCPDeprecationWarning
from mcp_types.version import MODERN_PROTOCOL_VERSIONS

from .reach import Context

_LEVELS: Final[tuple[types.LoggingLevel, ...]] = get_args(types.LoggingLevel)
_MOST: Final = 200
# The newest version of the protocol lets go of it; clients of those before it still ask for it.
warnings.filterwarnings("ignore", category=MCPDeprecationWarning, module=r"harquel\.tools")


class Noted:
    """Levels by session. By the newest version each call says its own, and the library sees to it."""

    def __init__(self) -> None:
        self._levels: dict[str, types.LoggingLevel] = {}

    async def set_level(self, context: Context, params: types.SetLevelRequestParams) -> types.EmptyResult:
        """From which level on a session is told."""
        while len(self._levels) >= _MOST:
            del self._levels[next(iter(self._levels))]
        self._levels[_session(context)] = params.level
        return types.EmptyResult()

    async def note(self, context: Context, level: types.LoggingLevel, data: dict[str, Any]) -> None:
        """Tells of something, in the stream of the call that it belongs to."""
        if context.protocol_version not in MODERN_PROTOCOL_VERSIONS:
            least = self._levels.get(_session(context), "warning")
            if _LEVELS.index(level) < _LEVELS.index(least):
                return
        await context.session.send_log_message(level, data, "harquel", context.request_id)


def _session(context: Context) -> str:
    return context.request.headers.get("mcp-session-id", "") if context.request is not None else ""
