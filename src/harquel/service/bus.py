"""Tells live streams, in their event loop, that something new is there.

Keeps only what a model has said since the last event of an inquiry, for whoever joins in the middle.
"""

from __future__ import annotations

import asyncio
import threading
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final, NamedTuple

END: Final = "\x00end"
"""Told instead of a piece when an inquiry has ended; no piece of text is equal to it."""

ANEW: Final = "\x00anew"
"""Told instead of a piece when what has passed so far does not count: the model, or another one, begins again."""

Listener = asyncio.Queue[str | None]
"""Gets a piece of passing text, ANEW, END, or None: there is something new in the records."""

_MOST_WAITING = 2000


class _Entry(NamedTuple):
    loop: asyncio.AbstractEventLoop
    listener: Listener
    end_only: bool


class Bus:
    """Threads tell, coroutines listen. A listener that does not keep up loses pieces, never events."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: defaultdict[str, list[_Entry]] = defaultdict(list)
        self._passed: defaultdict[str, list[str]] = defaultdict(list)

    def tell(self, key: str, piece: str | None = None) -> None:
        """From any thread."""
        with self._lock:
            listeners = [e for e in self._listeners.get(key, ()) if piece == END or not e.end_only]
            if piece in (END, ANEW):
                self._passed.pop(key, None)
            elif piece is not None:
                self._passed[key].append(piece)
        for entry in listeners:
            if not entry.loop.is_closed():
                entry.loop.call_soon_threadsafe(_put, entry.listener, piece)

    def settle(self, key: str) -> None:
        """What passed so far is about to stand in the records: nobody needs to hear it again."""
        with self._lock:
            self._passed.pop(key, None)

    @contextmanager
    def listening(self, key: str, end_only: bool = False) -> Iterator[Listener]:
        """A queue for the running event loop, for as long as the block lasts; what has passed already comes first.

        `end_only`: nothing but END is of interest; who waits for it is not woken for every step.
        """
        entry = _Entry(asyncio.get_running_loop(), Listener(_MOST_WAITING), end_only)
        with self._lock:
            self._listeners[key].append(entry)
            if key in self._passed and not end_only:
                entry.listener.put_nowait("".join(self._passed[key]))
        try:
            yield entry.listener
        finally:
            with self._lock:
                self._listeners[key].remove(entry)
                if not self._listeners[key]:
                    del self._listeners[key]


def _put(listener: Listener, piece: str | None) -> None:
    if listener.full() and piece not in (None, ANEW, END):
        return
    while listener.full():
        listener.get_nowait()
    listener.put_nowait(piece)
