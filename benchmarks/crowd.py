"""Sixty-four askers for a minute: nothing but an answer or 429, and our own time per inquiry."""

from __future__ import annotations

import statistics
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from benchmarks.figure import Figure
from benchmarks.own_time import QUESTIONS
from harquel.client import Busy, Harquel, HarquelError
from harquel.demo.stage import Stage, free_address

ASKERS, SECONDS = 64, 60.0


def measure(folder: Path) -> list[Figure]:
    """Each asks one question after the other; whoever is told to wait waits and asks again."""
    with Stage(folder, free_address(), free_address(), lambda _: None, pace_s=0.3) as stage:
        with Harquel(stage.url, stage.token) as client:
            client.ask(QUESTIONS[0], "ferries")
        end = time.monotonic() + SECONDS
        seen: Counter[str] = Counter()
        own: list[float] = []

        def one_asker(number: int) -> None:
            with Harquel(stage.url, stage.token, timeout_s=90, retries=0) as client:
                turn = number
                while time.monotonic() < end:
                    turn += 1
                    try:
                        inquiry = client.ask(QUESTIONS[turn % len(QUESTIONS)], "ferries")
                    except Busy as full:
                        seen["429"] += 1
                        time.sleep(full.retry_after_s)
                    except HarquelError as error:
                        seen[f"error: {error}"] += 1
                    else:
                        seen[str(inquiry.outcome)] += 1
                        own.append(inquiry.timings.own_ms)

        with ThreadPoolExecutor(ASKERS) as pool:
            list(pool.map(one_asker, range(ASKERS)))
        with Harquel(stage.url, stage.token) as client:
            intact = client.verify_ledger().intact
    for said, count in seen.items():
        if said not in ("answered", "429"):
            print(f"  {count} × {said}")
    own.sort()
    others = sum(count for said, count in seen.items() if said not in ("answered", "429"))
    return [
        Figure(f"{ASKERS} askers for {SECONDS:.0f} s: answered", float(seen["answered"]), ""),
        Figure("told to wait (429)", float(seen["429"]), ""),
        Figure("anything else", float(others), "", 0.0, "none"),
        Figure("own_ms, median", statistics.median(own), "ms"),
        Figure("own_ms, p95", own[int(len(own) * 0.95)], "ms"),
        Figure("ledger intact afterwards", float(intact), ""),
    ]
