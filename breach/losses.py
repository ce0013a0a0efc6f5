"""Kills processes of a service under load, one at random moments each, and looks at what became of every inquiry.

`python -m breach.losses` does so sixty times. What must hold: every inquiry that was taken in ends, none is lost; what
is answered is answered right; the ledger is whole; and a conductor that is killed costs its own inquiry at most.
"""

from __future__ import annotations

import os
import random
import signal
import tempfile
import threading
import time
from collections import Counter
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any, Final

import typer

from harquel.client import Harquel, HarquelError
from harquel.demo.stage import Stage, free_address

QUESTIONS: Final = (
    "How many sailings were cancelled in August 2026?",
    "How much was refunded in August 2026?",
    "How many bookings were made per month in 2026?",
    "Which vessel burned the most fuel in 2025?",
)
ASKERS: Final = 4
OUTCOMES: Final = {"conductor-lost", "service-stopped"}
"""Problems with which an inquiry may end here; a worker that is killed in the middle of a run is one more draft."""


@dataclass
class Losses:
    """What was killed, and what became of it."""

    killed: Counter[str] = field(default_factory=Counter)
    ended: Counter[str] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)


def kinds(service: int) -> dict[str, list[int]]:
    """The processes of a service, by what they are."""
    found: dict[str, list[int]] = {"service": [service], "nursery": [], "conductor": [], "worker": []}
    for child in _children(service):
        with suppress(OSError):
            command = Path(f"/proc/{child}/cmdline").read_bytes()
            kind = "worker" if b"sandbox/workers" in command else "nursery"
            found[kind].append(child)
            if kind == "nursery":
                found["conductor"] += _children(child)
    return found


def _children(pid: int) -> list[int]:
    found: list[int] = []
    with suppress(OSError):
        for task in Path(f"/proc/{pid}/task").iterdir():
            # A thread may have ended since it was listed; the others still count.
            with suppress(OSError):
                found += map(int, (task / "children").read_text().split())
    return found


def run_losses(stage: Stage, kills: int, seed: int, of: tuple[str, ...] = ()) -> Losses:
    """Kills `kills` processes of a stage that runs; of the kinds that are named, or of all."""
    losses, choice, over = Losses(), random.Random(seed), threading.Event()
    with Harquel(stage.url, stage.token, timeout_s=60) as client:
        right = {q: _rows(client.ask(q, "ferries")) for q in QUESTIONS}
    assert all(right.values()), right
    taken: list[tuple[str, str]] = []

    def ask(number: int) -> None:
        turn = number
        while not over.is_set():
            turn += 1
            question = QUESTIONS[turn % len(QUESTIONS)]
            with suppress(HarquelError), Harquel(stage.url, stage.token, timeout_s=5, retries=0) as client:
                taken.append((client.ask(question, "ferries", wait_s=0).id, question))
                client.ask(question, "ferries", wait_s=3)
            time.sleep(0.02)

    askers = [threading.Thread(target=ask, args=(n,)) for n in range(ASKERS)]
    for asker in askers:
        asker.start()
    for _ in range(kills):
        time.sleep(choice.uniform(0.05, 0.8))
        found = {k: p for k, p in kinds(stage.service.pid).items() if p and (not of or k in of)}
        kind = choice.choice(sorted(found))
        with suppress(ProcessLookupError):
            os.kill(choice.choice(found[kind]), signal.SIGKILL)
            losses.killed[kind] += 1
        if kind == "service":
            stage.serve_again()
    over.set()
    for asker in askers:
        asker.join()
    _look(stage, taken, right, losses)
    return losses


def _look(stage: Stage, taken: list[tuple[str, str]], right: dict[str, Any], losses: Losses) -> None:
    with Harquel(stage.url, stage.token, timeout_s=60) as client:
        deadline = time.monotonic() + 60
        for key, question in taken:
            while (inquiry := client.inquiry(key)).state != "ended" and time.monotonic() < deadline:
                time.sleep(0.1)
            why = inquiry.problem.type if inquiry.problem is not None else ""
            losses.ended[why or str(inquiry.outcome or inquiry.state)] += 1
            if inquiry.state != "ended":
                losses.faults.append(f"{key} hangs in {inquiry.state}")
            elif inquiry.outcome == "answered" and _rows(inquiry) != right[question]:
                losses.faults.append(f"{key} is answered wrongly")
            elif inquiry.outcome != "answered" and why not in OUTCOMES:
                losses.faults.append(f"{key} ended as {inquiry.outcome}: {why} {inquiry.problem}")
        verified = client.verify_ledger()
        if not verified.intact:
            losses.faults.append(f"the ledger is broken: {verified}")
        if losses.ended["conductor-lost"] > losses.killed["conductor"]:
            losses.faults.append("more inquiries were lost than conductors")
        if losses.ended["service-stopped"] and not losses.killed["service"]:
            losses.faults.append("an inquiry says that the service stopped, which it did not")
        if client.ask(QUESTIONS[0], "ferries").outcome != "answered":
            losses.faults.append("nothing is answered afterwards")


def _rows(inquiry: Any) -> Any:
    return inquiry.answer.table.rows if inquiry.answer is not None else None


def main(
    kills: Annotated[int, typer.Option(help="processes to kill")] = 60,
    seed: Annotated[int, typer.Option(help="of the choice of moments and processes")] = 1,
) -> None:
    """Prints what was killed and what became of what was asked; ends with 1 when anything did not hold."""
    with tempfile.TemporaryDirectory(prefix="harquel-losses-") as folder:
        stage = Stage(Path(folder), free_address(), free_address(), print, pace_s=0.1)
        with stage:
            losses = run_losses(stage, kills, seed)
    print(f"killed: {dict(losses.killed)}\nended: {dict(losses.ended)}")
    for fault in losses.faults:
        print(f"FAULT {fault}")
    raise SystemExit(1 if losses.faults else 0)


if __name__ == "__main__":
    typer.run(main)
