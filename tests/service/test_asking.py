"""The pool of asking threads and the bus of live streams, by themselves."""

from __future__ import annotations

import asyncio
import threading
import time

import pytest

from harquel.service.asking import AskingPool, Overloaded, Ticket
from harquel.service.bus import END, Bus


def eventually(condition, within_s: float = 3.0) -> bool:
    deadline = time.monotonic() + within_s
    while time.monotonic() < deadline:
        if condition():
            return True
        time.sleep(0.01)
    return False


def test_work_is_done_in_order_of_arrival() -> None:
    done: list[str] = []
    pool = AskingPool(lambda t: done.append(t.key), threads=1, waiting=10)
    for key in "abc":
        pool.enter(pool.reserve(), key)
    assert eventually(lambda: done == ["a", "b", "c"])
    pool.close(1)


def test_places_are_counted_and_the_wait_grows_with_the_queue() -> None:
    go = threading.Event()
    pool = AskingPool(lambda _: go.wait(5) and None, threads=1, waiting=2)
    for key in "abc":
        pool.enter(pool.reserve(), key)
    with pytest.raises(Overloaded) as caught:
        pool.reserve()
    assert 1 <= caught.value.after_s <= 60
    assert pool.under_way() == 3
    go.set()
    assert eventually(lambda: pool.under_way() == 0)
    pool.reserve()
    pool.give_back()
    assert pool.under_way() == 0
    pool.close(1)


def test_cancelling_reaches_the_waiting_and_the_working() -> None:
    seen: dict[str, bool] = {}

    def work(ticket: Ticket) -> None:
        seen[ticket.key] = ticket.cancelled.wait(3)

    pool = AskingPool(work, threads=1, waiting=5)
    for key in "ab":
        pool.enter(pool.reserve(), key)
    assert pool.cancel("b")
    assert pool.cancel("a")
    assert eventually(lambda: seen == {"a": True, "b": True})
    assert eventually(lambda: not pool.cancel("a"))
    assert not pool.cancel("never there")
    pool.close(1)


def test_a_fault_in_the_work_costs_neither_a_place_nor_the_thread() -> None:
    done: list[str] = []

    def work(ticket: Ticket) -> None:
        if ticket.key == "bad":
            raise RuntimeError("broken")
        done.append(ticket.key)

    pool = AskingPool(work, threads=1, waiting=5)
    for key in ("bad", "good"):
        pool.enter(pool.reserve(), key)
    assert eventually(lambda: done == ["good"])
    assert eventually(lambda: pool.under_way() == 0)
    pool.close(1)


def test_closing_waits_a_while_then_cancels() -> None:
    stopped = threading.Event()

    def work(ticket: Ticket) -> None:
        ticket.cancelled.wait(5)
        stopped.set()

    pool = AskingPool(work, threads=1, waiting=0)
    pool.enter(pool.reserve(), "a")
    started = time.monotonic()
    pool.close(0.3)
    assert stopped.is_set()
    assert 0.25 < time.monotonic() - started < 4
    with pytest.raises(Overloaded):
        pool.reserve()


def test_the_bus_tells_every_listener_of_a_key_and_nobody_else() -> None:
    async def listen() -> tuple[list[str | None], list[str | None], bool]:
        bus = Bus()
        with bus.listening("a") as first, bus.listening("a") as second, bus.listening("b") as other:
            threading.Thread(target=lambda: (bus.tell("a", "x"), bus.tell("a"), bus.tell("a", END))).start()
            got = [await asyncio.wait_for(first.get(), 2) for _ in range(3)]
            also = [await asyncio.wait_for(second.get(), 2) for _ in range(3)]
            return got, also, other.empty()

    got, also, untouched = asyncio.run(listen())
    assert got == also == ["x", None, END]
    assert untouched


def test_a_listener_that_does_not_keep_up_loses_pieces_but_not_the_news() -> None:
    async def listen() -> list[str | None]:
        bus = Bus()
        with bus.listening("a") as slow:
            for number in range(slow.maxsize + 50):
                bus.tell("a", str(number))
            bus.tell("a", END)
            await asyncio.sleep(0.05)
            return [slow.get_nowait() for _ in range(slow.qsize())]

    assert asyncio.run(listen())[-1] == END


def test_nobody_is_left_listening() -> None:
    async def come_and_go() -> Bus:
        bus = Bus()
        with bus.listening("a"):
            pass
        bus.tell("a", "nobody hears")
        return bus

    assert not asyncio.run(come_and_go())._listeners
