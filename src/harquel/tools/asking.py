"""A question asked for a tool: its stages are told while it is under way, and it is stopped when nobody waits for it.

What must hold: an inquiry whose call was cancelled is cancelled, too, whenever that comes, so that nothing goes on in
the database for nobody.
"""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import Awaitable, Callable
from typing import Final

import anyio

from harquel.client import AsyncHarquel, HarquelError, StreamEvent
from harquel.client.calls import RESTING, Call
from harquel.contract import Inquiry
from harquel.contract.stages import SAID, Happened, stages_of

Told = Callable[[str], Awaitable[None]]
"""Is told of a stage that has begun."""
_TO_STOP_S: Final = 5.0


async def followed(client: AsyncHarquel, call: Call[Inquiry], wait_s: float, tell: Told) -> Inquiry:
    """Starts an inquiry and waits for its end; look at `state`: it may be under way still. Raises HarquelError."""
    with anyio.CancelScope(shield=True):
        # It is quick, and without its id nothing could be stopped.
        found = await client.send(call)
    try:
        return await _to_its_end(client, found, wait_s, tell)
    except anyio.get_cancelled_exc_class():
        with anyio.CancelScope(shield=True), anyio.move_on_after(_TO_STOP_S):
            await _stop(client, found)
        raise


async def _to_its_end(client: AsyncHarquel, found: Inquiry, wait_s: float, tell: Told) -> Inquiry:
    stages, until = _Stages(), time.monotonic() + wait_s
    while found.state not in RESTING and (left := until - time.monotonic()) > 0:
        with anyio.move_on_after(left):
            async for event in client.events(found.id):
                if said := stages.after(event):
                    await tell(said)
        found = await client.inquiry(found.id)
    return found


async def _stop(client: AsyncHarquel, found: Inquiry) -> None:
    try:
        await client.cancel(found.id)
    except HarquelError:
        # It has come to an end meanwhile, or the service has: then nothing goes on.
        return


class _Stages:
    """Says what goes on once that is something else."""

    def __init__(self) -> None:
        self._happened: list[Happened] = []
        self._said = ""

    def after(self, event: StreamEvent) -> str:
        """What to say after an event; empty: nothing new."""
        if event.kind == "piece":
            return ""
        at = dt.datetime.fromisoformat(event.at).timestamp()
        duty, on = str(event.facts.get("duty") or ""), str(event.facts.get("on") or "")
        self._happened.append(Happened(event.kind, at, duty, on))
        said = " · ".join(SAID[one.stage] for one in stages_of(self._happened, at) if one.open)
        if said == self._said:
            return ""
        self._said = said
        return said
