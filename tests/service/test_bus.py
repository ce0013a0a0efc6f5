"""What a live stream hears, joined early, in the middle, or late."""

from __future__ import annotations

import asyncio

from harquel.service.bus import END, Bus, Listener


async def heard(listener: Listener) -> list[str | None]:
    await asyncio.sleep(0.01)
    return [listener.get_nowait() for _ in range(listener.qsize())]


def test_whoever_joins_in_the_middle_hears_it_from_the_start() -> None:
    async def listen() -> None:
        bus = Bus()
        bus.tell("one", "SELECT ")
        bus.tell("one", "a")
        bus.tell("other", "nothing of this")
        with bus.listening("one") as late:
            bus.tell("one", " FROM b")
            assert await heard(late) == ["SELECT a", " FROM b"]
        bus.settle("one")
        with bus.listening("one") as later:
            assert await heard(later) == []
            bus.tell("one", "again")
            bus.tell("one")
            bus.tell("one", END)
            assert await heard(later) == ["again", None, END]
        with bus.listening("one") as too_late:
            assert await heard(too_late) == []

    asyncio.run(listen())


def test_who_waits_for_the_end_only_is_woken_for_nothing_else() -> None:
    async def listen() -> None:
        bus = Bus()
        bus.tell("one", "SELECT ")
        with bus.listening("one", end_only=True) as patient, bus.listening("one") as curious:
            bus.tell("one", "a")
            bus.tell("one")
            assert await heard(patient) == []
            assert await heard(curious) == ["SELECT ", "a", None]
            bus.tell("one", END)
            assert await heard(patient) == [END]

    asyncio.run(listen())
