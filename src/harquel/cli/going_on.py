"""What an inquiry is at, while somebody waits for it at a terminal: its stages, and what each has taken so far."""

from __future__ import annotations

import datetime as dt
import time

from rich.console import Console, ConsoleOptions, RenderResult
from rich.text import Text

from harquel.client import StreamEvent
from harquel.contract.stages import SAID, Happened, stages_of

_TAIL = 180
"""Characters of what a model is writing that are shown."""


class GoingOn:
    """Drawn anew several times a second: what goes on counts up between two events, too."""

    def __init__(self) -> None:
        self._happened: list[Happened] = []
        self._came = time.monotonic()
        self._written = ""

    def take(self, event: StreamEvent) -> None:
        """An event, or a piece of what a model writes."""
        if event.kind == "piece":
            self._written = event.piece if event.anew else self._written + event.piece
            return
        at = dt.datetime.fromisoformat(event.at).timestamp()
        duty, on = str(event.facts.get("duty") or ""), str(event.facts.get("on") or "")
        self._happened.append(Happened(event.kind, at, duty, on))
        # The service's clock may be another: what counts is what has passed since its last event.
        self._came, self._written = time.monotonic(), ""

    def __rich_console__(self, console: Console, options: ConsoleOptions) -> RenderResult:
        last = self._happened[-1].at if self._happened else 0.0
        line = Text()
        for one in stages_of(self._happened, last + time.monotonic() - self._came):
            said = f"{SAID[one.stage]} {one.seconds:.1f} s"
            line.append("  ·  " if line.plain else "", "dim").append(said, "bold" if one.open else "dim")
        yield line
        if self._written:
            yield Text(self._written[-_TAIL:], style="dim")
