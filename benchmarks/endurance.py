"""A thousand inquiries on three engines, a fifth of them cancelled; and simple questions beside a bomb."""

from __future__ import annotations

import statistics
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from breach.targets import Target, targets

from benchmarks.figure import Figure, median_ms
from harquel.core.domain.events import Unwatched
from harquel.core.domain.policy import Limits, Policy
from harquel.core.domain.statements import RuledStatement
from harquel.core.errors import SandboxError
from harquel.core.inquiry.source import Source
from harquel.core.sandbox import Sandbox
from harquel.testing.model import simulated_model
from harquel.testing.sources import ask, engine_source

ENGINES = ("sqlite", "postgresql", "mariadb")
EACH, OF_THEM_CANCELLED = 340, 68
SIMPLE = "How many harbours are there?"
LONG = {
    "sqlite": "WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM r) SELECT COUNT(*) FROM r",
    "postgresql": "SELECT COUNT(*) FROM public.weather_reading a, public.weather_reading b, public.weather_reading c",
    "mariadb": "SELECT COUNT(*) FROM weather_reading a, weather_reading b, weather_reading c",
}
BOMB_S = 2.0
LIMITS = Limits(query_s=BOMB_S)


class _Soon(Unwatched):
    """An asker who stops once the database is asked."""

    def __init__(self) -> None:
        self.asked = False

    def durable(self, event: object) -> None:
        self.asked = self.asked or getattr(event, "kind", "") == "ruled"

    def cancelled(self) -> bool:
        return self.asked


def measure(folder: Path) -> list[Figure]:
    """Connections and processes left over; p95 beside a bomb over p95 without, and how long the bomb lived."""
    folder.chmod(0o755)
    figures: list[Figure] = []
    with simulated_model() as url, targets(folder, ENGINES) as made:
        for target in made:
            source, keeper = engine_source(target.engine, url, policy=Policy(limits=LIMITS))
            keeper.current()
            figures += _endure(target, source)
            source, keeper = engine_source(target.engine, url, policy=Policy(limits=LIMITS))
            keeper.current()
            figures += _beside_a_bomb(target, source)
            figures += _hundred_rows(target, source)
            _workers(source).close()
    return figures


def _workers(source: Source) -> Sandbox:
    assert isinstance(source.sandbox, Sandbox)
    return source.sandbox


def _endure(target: Target, source: Source) -> list[Figure]:
    # The one with which the engine looks for changes stays.
    before = target.connections()

    def one(number: int) -> str:
        stops = number % (EACH // OF_THEM_CANCELLED) == 0
        return str(ask(source, SIMPLE, _Soon() if stops else None).outcome)

    with ThreadPoolExecutor(4) as askers:
        outcomes = list(askers.map(one, range(EACH)))
    assert outcomes.count("answered") == EACH - OF_THEM_CANCELLED, outcomes
    assert outcomes.count("cancelled") == OF_THEM_CANCELLED
    pids = _workers(source).pids()
    _workers(source).close()
    deadline = time.monotonic() + 5
    while time.monotonic() < deadline and (target.connections() > before or _alive(pids)):
        time.sleep(0.05)
    return [
        Figure(
            f"left after {EACH} inquiries, {target.name}: connections",
            max(0, target.connections() - before),
            "",
            0,
            "aim",
        ),
        Figure(f"left after {EACH} inquiries, {target.name}: processes", _alive(pids), "", 0, "aim"),
    ]


def _alive(pids: list[int]) -> int:
    return sum(Path(f"/proc/{pid}").exists() for pid in pids)


def _beside_a_bomb(target: Target, source: Source) -> list[Figure]:
    alone = _p95(source)
    over, lived = threading.Event(), []

    def bomb() -> None:
        while not over.is_set():
            started = time.monotonic()
            try:
                _workers(source).test_door(LONG[target.name], {"weather_reading": frozenset({"id"})})
            except SandboxError:
                lived.append(time.monotonic() - started)

    thread = threading.Thread(target=bomb)
    thread.start()
    time.sleep(0.3)
    beside = _p95(source)
    over.set()
    thread.join()
    return [
        Figure(f"simple question beside a bomb, p95, {target.name}", beside, "ms", alone, "without"),
        Figure(f"longest life of a bomb, {target.name}", max(lived), "s", BOMB_S, "limit"),
    ]


def _hundred_rows(target: Target, source: Source) -> list[Figure]:
    """On a warm worker against a kept connection of the bare driver; SQLite has a figure of its own."""
    if target.name == "sqlite":
        return []
    schema = "public." if target.name == "postgresql" else ""
    sql = f"SELECT id, opened_on, kind, cost_cents FROM {schema}maintenance_order LIMIT 100"
    statement = RuledStatement(sql, {"maintenance_order": frozenset({"id", "opened_on", "kind", "cost_cents"})}, 1000)
    bare = median_ms(lambda: target.original(sql))
    value = median_ms(lambda: source.sandbox.run(statement)) - bare
    return [Figure(f"what the sandbox adds to 100 rows, {target.name}", value, "ms", 3.0, "aim")]


def _p95(source: Source, times: int = 120) -> float:
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        assert ask(source, SIMPLE).outcome == "answered"
        taken.append((time.perf_counter() - started) * 1000)
    return statistics.quantiles(taken, n=20)[-1]
