"""Our own time per inquiry, with eight askers at once over HTTP."""

from __future__ import annotations

import statistics
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from benchmarks.figure import Figure
from harquel.client import Harquel
from harquel.demo.stage import Stage, free_address

QUESTIONS = (
    "How many sailings were cancelled in August 2026?",
    "Which five routes earned most this year?",
    "On-time rate per vessel, worst first",
    "How many customers joined in 2026?",
)
ASKERS, EACH = 8, 15


def measure(folder: Path) -> list[Figure]:
    """`own_ms` as the service reports it; the rest of what a caller waits beside it."""
    with Stage(folder, free_address(), free_address(), lambda _: None, pace_s=0.3) as stage:

        def one_asker(number: int) -> list[tuple[float, float]]:
            taken = []
            with Harquel(stage.url, stage.token) as client:
                for turn in range(EACH):
                    started = time.perf_counter()
                    inquiry = client.ask(QUESTIONS[(number + turn) % len(QUESTIONS)], "ferries")
                    wall = (time.perf_counter() - started) * 1000
                    assert inquiry.outcome == "answered", inquiry.problem
                    t = inquiry.timings
                    taken.append((t.own_ms, wall - t.model_ms - t.database_ms - t.queued_ms))
            return taken

        with ThreadPoolExecutor(ASKERS) as pool:
            pairs = [pair for asker in pool.map(one_asker, range(ASKERS)) for pair in asker]
    own, around = (sorted(p[i] for p in pairs) for i in (0, 1))
    return [
        Figure("own_ms, 8 askers, median", statistics.median(own), "ms", 60.0, "aim"),
        Figure("own_ms, 8 askers, p95", own[int(len(own) * 0.95)], "ms"),
        Figure("all but model, database, queue, as a caller sees it, median", statistics.median(around), "ms"),
        Figure("the same, p95", around[int(len(around) * 0.95)], "ms"),
    ]
