"""One switch that stops everything: no statement reaches a database until it is taken back.

It outlives the service: how it was left stands in the ledger (standing.py).
"""

from __future__ import annotations

from harquel.contract import Standstill, events
from harquel.service.ledger.append import append
from harquel.service.operations import NO_SUBJECT, Call, Nothing, operation
from harquel.service.runtime import runtime
from harquel.service.standing import OFF, ON


@operation("standstill.read", takes=Nothing, gives=Standstill, about=NO_SUBJECT)
def read_standstill(_: Call[Nothing, None]) -> Standstill:
    """The state of the switch."""
    return Standstill(on=runtime().sources.standing_still())


@operation(
    "standstill.switch", takes=Standstill, gives=Standstill, scope="admin", about=NO_SUBJECT, repeat="same",
    entries=(ON, OFF),
)  # fmt: skip
def switch_standstill(call: Call[Standstill, None]) -> Standstill:
    """Stops what runs on every source and lets nothing start, or takes that back."""
    live = runtime()
    live.sources.stand_still(call.asked.on)
    what = events.StandstillOn() if call.asked.on else events.StandstillOff()
    live.writer.do(lambda: append(who=call.caller.name, what=what))
    return call.asked
