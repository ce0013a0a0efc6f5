"""Processes: how soon the service is ready, what conductors take, and what a text without end costs others."""

from __future__ import annotations

import os
import shutil
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import cycle
from pathlib import Path

from breach.losses import kinds

from benchmarks.figure import Figure
from benchmarks.own_time import QUESTIONS
from harquel.client import Harquel
from harquel.demo.stage import Stage, free_address
from harquel.testing.door import instant

ASKERS, EACH, COMPUTING_S = 3, 40, 4


class WithDoor(Stage):
    """A demo whose service has the test door."""

    def serving(self) -> list[str]:
        """See Stage."""
        return ["-m", "harquel.testing.door", str(self.folder / "harquel.toml")]


def measure(folder: Path) -> list[Figure]:
    """On a demo that has run once, so that nothing is scanned or tried meanwhile."""
    with _stage(Stage, folder / "first", folder):
        pass
    figures = [_ready(folder)]
    figures += [_memory(folder, number) for number in (1, 2, 4)]
    return [*figures, *_throughput(folder), *_beside_an_endless_text(folder)]


@contextmanager
def _stage(kind: type[Stage], own: Path, folder: Path, **environment: object) -> Iterator[Stage]:
    settled = folder / "first"
    if own != settled:
        shutil.copytree(settled, own)
    else:
        own.mkdir()
        shutil.copyfile(folder / "ferries.db", own / "ferries.db")
    named = {f"HARQUEL__SERVICE__{name.upper()}": str(value) for name, value in environment.items()}
    with kind(own, free_address(), free_address(), lambda _: None, environment=named) as stage:
        with Harquel(stage.url, stage.token) as client:
            while not all(s.starters and not s.scanning for s in client.sources()):
                time.sleep(0.2)
        yield stage


def _ready(folder: Path) -> Figure:
    with _stage(Stage, folder / "ready", folder) as stage:
        taken = []
        for _ in range(5):
            stage.service.kill()
            started = time.perf_counter()
            stage.serve_again()
            taken.append(time.perf_counter() - started)
    return Figure("service ready after a kill, fastest of 5", min(taken), "s", 1.5, "aim")


def _memory(folder: Path, number: int) -> Figure:
    with _stage(Stage, folder / f"memory-{number}", folder, conductors=number, askers=number) as stage:
        _ask(stage, number, 12)
        found = kinds(stage.service.pid)
        pids = [p for kind in ("service", "nursery", "conductor") for p in found[kind]]
        size = sum(map(_share_kb, pids)) / 1024
    return Figure(f"memory of service and {number} conductors, shared parts once", size, "MB")


def _share_kb(pid: int) -> int:
    lines = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("Pss:"))


def _ask(stage: Stage, askers: int, each: int) -> list[float]:
    """Milliseconds that callers waited."""
    waited: list[float] = []

    def one(number: int) -> None:
        with Harquel(stage.url, stage.token, timeout_s=120) as client:
            for turn in range(each):
                started = time.perf_counter()
                asked = client.ask(QUESTIONS[(number + turn) % len(QUESTIONS)], "ferries")
                assert asked.outcome == "answered", asked.problem
                waited.append((time.perf_counter() - started) * 1000)

    threads = [threading.Thread(target=one, args=(n,)) for n in range(askers)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return sorted(waited)


def _throughput(folder: Path) -> list[Figure]:
    with _stage(Stage, folder / "throughput", folder) as stage:
        _ask(stage, 8, 5)
        figures = []
        for askers in (1, 8, 32):
            started = time.perf_counter()
            count = len(_ask(stage, askers, max(8, 160 // askers)))
            figures.append(
                Figure(f"inquiries a second, {askers} askers", count / (time.perf_counter() - started), "/s")
            )
    return figures


def _beside_an_endless_text(folder: Path) -> list[Figure]:
    """The callers' p95 with somebody who asks what computes for ever, again and again, against without."""
    with _stage(WithDoor, folder / "endless", folder, computing_s=COMPUTING_S) as stage:
        _ask(stage, ASKERS, 10)
        without = _ask(stage, ASKERS, EACH)
        over = threading.Event()
        ended = []

        def endless() -> None:
            with Harquel(stage.url, stage.token, timeout_s=120) as client:
                for step in cycle(("reply", "guard", "review")):
                    if over.is_set():
                        return
                    asked = client.ask(QUESTIONS[0], "ferries", as_of=instant(step))
                    ended.append(asked.problem.type if asked.problem is not None else "answered")

        thread = threading.Thread(target=endless)
        thread.start()
        beside = _ask(stage, ASKERS, EACH)
        over.set()
        thread.join()
        assert set(ended) == {"too-much-computing"}, ended
    at = int(ASKERS * EACH * 0.95)
    cores = f"on {os.cpu_count()} cores"
    return [Figure(f"callers' p95 beside a text without end, {cores}", beside[at], "ms", without[at], "without")]
