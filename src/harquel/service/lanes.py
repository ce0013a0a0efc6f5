"""Each caller in a lane of their own: who asks for much that takes long does not keep the others waiting."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Final

OF_ONE: Final = 8
"""Of one token or session: whoever asks for much that takes long waits for himself, not others for him."""


class Lanes:
    """How many requests of each caller are worked on. Of one event loop."""

    def __init__(self) -> None:
        self._open: dict[str, tuple[asyncio.Semaphore, int]] = {}

    @asynccontextmanager
    async def of(self, shown: str) -> AsyncIterator[None]:
        """Waits until one more of whoever shows this may be worked on. Nothing is left of one who has none."""
        lane, users = self._open.get(shown, (asyncio.Semaphore(OF_ONE), 0))
        self._open[shown] = lane, users + 1
        try:
            async with lane:
                yield
        finally:
            lane, users = self._open.pop(shown)
            if users > 1:
                self._open[shown] = lane, users - 1
