"""Five hundred inquiries in a row: what the service, with all its processes, holds after a hundred and at the end."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Final, NamedTuple

from benchmarks.figure import Figure
from benchmarks.own_time import QUESTIONS
from harquel.client import Harquel
from harquel.demo.stage import Stage, free_address

_WARM: Final = 100
_ALL: Final = 500


class Held(NamedTuple):
    """Of the service and of every process below it."""

    megabytes: float
    processes: int
    threads: int
    descriptors: int


def measure(folder: Path) -> list[Figure]:
    """Memory as the kernel shares it out (PSS); a hundred fill what is meant to stay: catalogs, pools, caches."""
    stage = Stage(folder, free_address(), free_address(), lambda _: None)
    with stage, Harquel(stage.url, stage.token) as client:
        service = stage.processes[1].pid
        warm = held(service)
        for number in range(1, _ALL + 1):
            inquiry = client.ask(QUESTIONS[number % len(QUESTIONS)], "ferries", wait_s=60)
            assert inquiry.outcome == "answered", inquiry
            if number == _WARM:
                warm = held(service)
        end = held(service)
    name = f"after {_ALL} inquiries in a row"
    return [
        Figure(f"memory {name}", end.megabytes, "MB", warm.megabytes, f"after {_WARM}"),
        Figure(f"processes {name}", float(end.processes), "", float(warm.processes), f"after {_WARM}"),
        Figure(f"threads {name}", float(end.threads), "", float(warm.threads), f"after {_WARM}"),
        Figure(f"descriptors {name}", float(end.descriptors), "", float(warm.descriptors), f"after {_WARM}"),
    ]


def held(root: int) -> Held:
    """What `root` and its descendants hold now."""
    below, whole = [root], list[int]()
    while below:
        one = below.pop()
        whole.append(one)
        for task in os.listdir(f"/proc/{one}/task"):
            below += map(int, Path(f"/proc/{one}/task/{task}/children").read_text().split())
    return Held(
        sum(_shared_out(one) for one in whole) / 1024,
        len(whole),
        sum(len(os.listdir(f"/proc/{one}/task")) for one in whole),
        sum(len(os.listdir(f"/proc/{one}/fd")) for one in whole),
    )


def _shared_out(process: int) -> int:
    """Kilobytes."""
    lines = Path(f"/proc/{process}/smaps_rollup").read_text().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("Pss:"))
