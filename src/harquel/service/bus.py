"""Tells live streams, in their event loop, that something new is there. Keeps nothing."""

from __future__ import annotations

import asyncio
import threading
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

END: Final = "\x00end"
"""Told instead of a piece when an inquiry has ended; no piece of text is equal to it."""

Listener = asyncio.Queue[str | None]
"""Gets a piece of passing text, END, or None: there is something new in the records."""

_MOST_WAITING = 2000


class Bus:
    """Threads tell, coroutines listen. A listener that does not keep up loses pieces, never events."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: defaultdict[str, list[tuple[asyncio.AbstractEventLoop, Listener]]] = defaultdict(list)

    def tell(self, key: str, piece: str | None = None) -> None:
        """From any thread."""
        with self._lock:
            listeners = list(self._listeners.get(key, ()))
        for loop, listener in listeners:
            if not loop.is_closed():
                loop.call_soon_threadsafe(_put, listener, piece)

    @contextmanager
    def listening(self, key: str) -> Iterator[Listener]:
        """A queue for the running event loop, for as long as the block lasts."""
        entry = (asyncio.get_running_loop(), Listener(_MOST_WAITING))
        with self._lock:
            self._listeners[key].append(entry)
        try:
            yield entry[1]
        finally:
            with self._lock:
                self._listeners[key].remove(entry)
                if not self._listeners[key]:
                    del self._listeners[key]


def _put(listener: Listener, piece: str | None) -> None:
    if listener.full() and piece not in (None, END):
        return
    while listener.full():
        listener.get_nowait()
    listener.put_nowait(piece)
