"""What an inquiry is at, in stages that people understand, and what each has taken so far: made from its events.

Some go on at the same time: the question is read while a draft is written, and counted another way while that runs.
console/src/shared/stages.ts follows the same rules, and one table of cases (tests/data/stages.json) holds both.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final, Literal

Stage = Literal[
    "preparing", "following", "reading", "drafting", "checking", "running", "another-way", "wording", "answering"
]
STAGES: Final[tuple[Stage, ...]] = (
    "preparing", "following", "reading", "drafting", "checking", "running", "another-way", "wording", "answering",
)  # fmt: skip
"""In the order in which they are told."""
SAID: Final[dict[Stage, str]] = {
    "preparing": "Preparing", "following": "Understanding what follows", "reading": "Reading the question",
    "drafting": "Drafting", "checking": "Checking", "running": "Running", "another-way": "Counting another way",
    "wording": "Wording", "answering": "Answering",
}  # fmt: skip
"""In words that people understand, in English."""
_BESIDE: Final = frozenset({"control", "second opinion"})
"""What is done for these goes on beside the rest."""
_NEXT: Final[dict[str, Stage]] = {
    "accepted": "preparing", "restated": "preparing", "briefed": "preparing", "replied": "checking",
    "ruled": "checking", "planned": "checking", "stumbled": "checking", "released": "checking", "ran": "answering",
    "compared": "answering",
}  # fmt: skip
"""What goes on after each."""


@dataclass(frozen=True)
class Happened:
    """An event, as far as stages need it; `at` is in seconds by any clock."""

    kind: str
    at: float
    duty: str = ""
    on: str = ""


@dataclass(frozen=True)
class Spent:
    """What a stage has taken, in seconds, and whether it goes on."""

    stage: Stage
    seconds: float
    open: bool


def stages_of(happened: Iterable[Happened], now: float) -> list[Spent]:
    """Those that an inquiry has been in, in their order; `now` by the clock of the events."""
    taken: dict[Stage, float] = {}
    lanes: dict[bool, tuple[float, Stage | None]] = {}
    for event in happened:
        beside = event.duty in _BESIDE and event.kind != "compared"
        at, stage = lanes.get(beside, (event.at, None))
        if stage is not None:
            taken[stage] = taken.get(stage, 0.0) + event.at - at
        lanes[beside] = (event.at, _after(event, stage))
        if event.kind in ("compared", "ended", "held", "asked-back"):
            lanes.pop(True, None)
        if event.kind in ("ended", "held", "asked-back"):
            lanes.pop(False, None)
    open_ = {stage: at for at, stage in lanes.values() if stage is not None}
    for stage, at in open_.items():
        taken[stage] = taken.get(stage, 0.0) + max(0.0, now - at)
    return [Spent(stage, taken[stage], stage in open_) for stage in STAGES if stage in taken]


def _after(event: Happened, before: Stage | None) -> Stage | None:
    """What goes on after an event, in its lane; `before` is what went on until then."""
    if event.duty in _BESIDE and event.kind != "compared":
        if event.kind == "replied":
            return None
        return "reading" if event.kind == "prompted" and event.duty == "control" else "another-way"
    if event.kind == "prompted":
        return {"follow-up": "following", "word": "wording"}.get(event.duty, "drafting")  # type: ignore[return-value]
    if event.kind == "replied" and event.duty:
        return "preparing" if event.duty == "follow-up" else "answering"
    if event.kind == "ruled" and event.on == "plan":
        return "running"
    return _NEXT.get(event.kind, before)
