"""Whoever guesses is made to wait, nobody else is, and of how many addresses that is known has a bound."""

from __future__ import annotations

import threading

import pytest

from harquel.service.access import throttle
from harquel.service.access.throttle import MOST_FAILURES, WITHIN_S, Throttle


class Clock:
    """Seconds that pass when they are told to."""

    def __init__(self) -> None:
        self.now = 1000.0

    def monotonic(self) -> float:
        return self.now


@pytest.fixture
def clock(monkeypatch: pytest.MonkeyPatch) -> Clock:
    found = Clock()
    monkeypatch.setattr(throttle, "time", found)
    return found


def test_so_many_failures_in_a_minute_are_let_pass_and_no_more(clock: Clock) -> None:
    made = Throttle()
    for _ in range(MOST_FAILURES):
        assert made.wait_s("198.51.100.7") == 0
        made.failed("198.51.100.7")
        clock.now += 1
    assert made.wait_s("198.51.100.7") == round(WITHIN_S - MOST_FAILURES + 0.5)
    assert made.wait_s("198.51.100.8") == 0
    # The oldest counts until its minute is over; then one more may be tried, and the next oldest counts.
    clock.now = 1000.0 + WITHIN_S + 0.6
    assert made.wait_s("198.51.100.7") == 0
    made.failed("198.51.100.7")
    assert made.wait_s("198.51.100.7") > 0


def test_failures_of_many_addresses_take_no_more_room_and_the_latest_are_known(
    clock: Clock, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(throttle, "_MOST_ADDRESSES", 50)
    made = Throttle()
    for number in range(200):
        for _ in range(MOST_FAILURES):
            made.failed(f"198.51.100.{number}")
    assert len(made._failed) == 50
    assert made.wait_s("198.51.100.199") > 0
    assert made.wait_s("198.51.100.3") == 0
    # Whoever fails again is not forgotten for those that come after.
    made.failed("198.51.100.150")
    for number in range(200, 249):
        made.failed(f"198.51.100.{number}")
    assert made.wait_s("198.51.100.150") > 0
    clock.now += WITHIN_S + 1
    assert made.wait_s("198.51.100.150") == 0


def test_failures_at_the_same_time_are_all_counted() -> None:
    made = Throttle()
    threads = [threading.Thread(target=made.failed, args=("198.51.100.7",)) for _ in range(MOST_FAILURES)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert made.wait_s("198.51.100.7") > 0
