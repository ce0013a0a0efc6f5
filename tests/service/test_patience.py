"""Requests by halves, and streams without number: neither takes the service away from others."""

from __future__ import annotations

import socket
import time
from collections.abc import Iterator
from contextlib import ExitStack, suppress

import httpx
import pytest

from harquel.demo.stage import Stage
from harquel.service import patience


@pytest.fixture
def address(stage: Stage) -> tuple[str, int]:
    host, port = stage.bind.split(":")
    return host, int(port)


@pytest.fixture
def lines(address: tuple[str, int]) -> Iterator[list[socket.socket]]:
    with ExitStack() as stack:
        yield [stack.enter_context(socket.create_connection(address, timeout=60)) for _ in range(20)]


def test_requests_by_halves_are_ended_and_others_served_meanwhile(lines: list[socket.socket], stage: Stage) -> None:
    heads = (b"", b"GET /api/v1/me HT", b"GET /api/v1/me HTTP/1.1\r\nHost: x\r\nAuthor",
             b"POST /api/v1/inquiries HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 9999\r\n\r\n{")  # fmt: skip
    started = time.monotonic()
    for number, line in enumerate(lines):
        line.sendall(heads[number % len(heads)])
    assert httpx.get(f"{stage.url}/healthz", timeout=10).status_code == 200
    for number, line in enumerate(lines):
        said = b""
        while piece := line.recv(4096):
            said += piece
        if 0 < number % len(heads) < 3:
            assert b" 408 " in said or b" 400 " in said, said
    assert time.monotonic() - started < patience.BODY_S + 20


def test_a_head_that_drips_has_no_more_time(address: tuple[str, int]) -> None:
    with socket.create_connection(address, timeout=60) as line:
        line.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n")
        started = time.monotonic()
        with suppress(OSError):
            while time.monotonic() - started < patience.HEAD_S + 20:
                line.sendall(b"X-Drip: 1\r\n")
                time.sleep(0.5)
        assert time.monotonic() - started < patience.HEAD_S + 15
