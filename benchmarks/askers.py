"""Thirty-two askers at once with a model that takes half a second, and inquiries a second with one that takes none."""

from __future__ import annotations

import http.client
import json
import statistics
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Final

from benchmarks.figure import Figure
from benchmarks.own_time import QUESTIONS
from benchmarks.replayed import replayed
from harquel.demo.stage import Stage, free_address

_ASKERS: Final = 32
_EACH: Final = 12
_HALF_A_SECOND: Final = 0.5
_WAIT_S: Final = 60


def measure(folder: Path) -> list[Figure]:
    """`own_ms` as the service reports it; what comes to an end in a second, with all that is asked on this machine."""
    with _stage(folder / "slow", _HALF_A_SECOND) as stage:
        _asked(stage, 4, 4)
        slow = _asked(stage, _ASKERS, _EACH)
    with _stage(folder / "fast", 0.0) as stage:
        _asked(stage, 4, 4)
        started = time.perf_counter()
        fast = _asked(stage, _ASKERS, _EACH)
        rate = len(fast) / (time.perf_counter() - started)
    own = sorted(one["timings"]["own_ms"] for one in slow)
    return [
        Figure("own_ms, 32 askers, a model of 500 ms, median", statistics.median(own), "ms", 40.0, "aim"),
        Figure("own_ms, 32 askers, a model of 500 ms, p95", own[int(len(own) * 0.95)], "ms"),
        Figure("inquiries a second, 32 askers, a model that takes no time", rate, "/s", 60.0, "aim"),
    ]


@contextmanager
def _stage(folder: Path, takes_s: float) -> Iterator[Stage]:
    folder.mkdir()
    (folder / "ferries.db").symlink_to(folder.parent / "ferries.db")
    model = free_address()
    with replayed(model, takes_s) as address:
        said = {"HARQUEL__MODELS__MAIN__BASE_URL": f"http://{address}/v1", "HARQUEL__SERVICE__TRY_STARTERS": "false"}
        with Stage(folder, free_address(), model, lambda _: None, environment=said) as stage:
            yield stage


def _asked(stage: Stage, askers: int, each: int) -> list[dict[str, Any]]:
    """What each inquiry came to; over bare connections, so that little is spent on asking."""
    found: list[dict[str, Any]] = []
    host = stage.url.removeprefix("http://")
    headers = {"Authorization": f"Bearer {stage.token}", "Content-Type": "application/json"}

    def one(number: int) -> None:
        connection = http.client.HTTPConnection(host, timeout=_WAIT_S + 10)
        for turn in range(each):
            question = QUESTIONS[(number + turn) % len(QUESTIONS)]
            body = json.dumps({"question": question, "source": "ferries", "wait_s": _WAIT_S})
            connection.request("POST", "/api/v1/inquiries", body, headers)
            inquiry = json.loads(connection.getresponse().read())
            assert inquiry["outcome"] == "answered", inquiry
            found.append(inquiry)
        connection.close()

    threads = [threading.Thread(target=one, args=(number,)) for number in range(askers)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(found) == askers * each
    return found
