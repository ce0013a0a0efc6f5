"""Requests to somebody else's server: where they never go, and what they never wait for."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import pytest

from harquel.core.errors import ConfigurationError
from harquel.service.outbox.outward import NotTaken, post
from harquel.service.outbox.signing import secret_of, signed

PRIVATE = (
    "127.0.0.1", "localhost", "[::1]", "0.0.0.0", "[::]", "169.254.169.254", "10.0.0.1", "172.16.0.1", "192.168.1.1",
    "100.64.0.1", "[fe80::1]", "[fd00::1]", "[::ffff:127.0.0.1]", "[64:ff9b::7f00:1]", "[2002:7f00:1::]", "2130706433",
    "0x7f.1", "127.1", "0177.0.0.1", "224.0.0.1", "[ff02::1]", "255.255.255.255", "198.18.0.1", "192.0.0.1",
    "[::127.0.0.1]", "[2001:0:a00:1:0:0:80ff:fffe]",
)  # fmt: skip


def test_signatures_are_those_of_the_standard() -> None:
    """Its own example."""
    secret = secret_of("whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw", "secret")
    found = signed(secret, "msg_p5jXN8AQM9LWM0D4loKWxJek", 1614265330, b'{"test": 2432232314}')
    assert found["webhook-signature"] == "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE="
    for bad in ("", "whsec_", "whsec_short", "no base64!", "whsec_" + "QUJD" * 5):
        with pytest.raises(ConfigurationError):
            secret_of(bad, "secret")


@pytest.mark.parametrize("host", PRIVATE)
def test_nothing_goes_to_this_machine_or_a_private_network(host: str, monkeypatch: pytest.MonkeyPatch) -> None:
    tried: list[Any] = []
    monkeypatch.setattr(socket.socket, "connect", lambda _, at: tried.append(at))
    with pytest.raises(NotTaken):
        post(f"https://{host}/hook", {}, b"{}", private=False)
    assert tried == []


def resolving(*answers: list[str]) -> tuple[Callable[..., Any], list[str]]:
    """A resolver that says something else each time."""
    asked: list[str] = []

    def resolve(host: str, port: int, **_: Any) -> list[Any]:
        asked.append(host)
        found = answers[min(len(asked), len(answers)) - 1]
        return [(socket.AF_INET, socket.SOCK_STREAM, 6, "", (address, port)) for address in found]

    return resolve, asked


def test_a_name_is_resolved_once_and_what_it_says_then_is_where_it_goes(monkeypatch: pytest.MonkeyPatch) -> None:
    resolve, asked = resolving(["93.184.216.34"], ["127.0.0.1"])
    tried: list[Any] = []

    def connect(_: socket.socket, at: Any) -> None:
        tried.append(at)
        raise ConnectionRefusedError

    monkeypatch.setattr(socket, "getaddrinfo", resolve)
    monkeypatch.setattr(socket.socket, "connect", connect)
    with pytest.raises(NotTaken, match="nobody listens"):
        post("https://hooks.example/x", {}, b"{}", private=False)
    assert (asked, tried) == (["hooks.example"], [("93.184.216.34", 443)])
    # One address of several that is private is one too many.
    monkeypatch.setattr(socket, "getaddrinfo", resolving(["93.184.216.34", "10.1.2.3"])[0])
    with pytest.raises(NotTaken, match="private network"):
        post("https://hooks.example/x", {}, b"{}", private=False)
    assert len(tried) == 1


@contextmanager
def says(*pieces: bytes, pause_s: float = 0.0, endless: bool = False) -> Iterator[tuple[str, list[bytes]]]:
    """A server that says something, piece by piece."""
    heard: list[bytes] = []
    with socket.create_server(("127.0.0.1", 0)) as listening:
        stopped = threading.Event()

        def serve() -> None:
            while not stopped.is_set():
                try:
                    line, _ = listening.accept()
                except OSError:
                    return
                with line:
                    heard.append(line.recv(65_536))
                    try:
                        for piece in pieces:
                            line.sendall(piece)
                            stopped.wait(pause_s)
                        while endless and not stopped.is_set():
                            line.sendall(pieces[-1])
                            stopped.wait(pause_s)
                    except OSError:
                        pass

        thread = threading.Thread(target=serve, daemon=True)
        thread.start()
        try:
            yield f"http://127.0.0.1:{listening.getsockname()[1]}/hook?a=1", heard
        finally:
            stopped.set()
            listening.shutdown(socket.SHUT_RDWR)
            thread.join(5)


OK = b"HTTP/1.1 204 No Content\r\ncontent-length: 0\r\n\r\n"


def test_what_is_taken_was_said_once_with_its_headers() -> None:
    with says(OK) as (url, heard):
        post(url, {"webhook-id": "msg_1", "content-type": "application/json"}, b'{"a": 1}', private=True)
    assert len(heard) == 1
    assert heard[0].startswith(b"POST /hook?a=1 HTTP/1.1\r\n")
    assert b"webhook-id: msg_1\r\n" in heard[0]
    assert b"\r\n\r\n" in heard[0]


@pytest.mark.parametrize(
    ("pieces", "pause_s", "endless", "match", "lasting"),
    [
        ([b"HTTP/1.1 302 Found\r\nlocation: http://127.0.0.1:1/x\r\ncontent-length: 0\r\n\r\n"], 0, False, "302", True),
        ([b"HTTP/1.1 410 Gone\r\ncontent-length: 0\r\n\r\n"], 0, False, "410", True),
        ([b"HTTP/1.1 503 Busy\r\ncontent-length: 0\r\n\r\n"], 0, False, "503", False),
        ([b"H", b"T", b"T", b"P"], 0.3, True, "in time|broke", False),
        ([b"HTTP/1.1 200 OK\r\n", b"x-more: 1\r\n"], 0.2, True, "in time|broke", False),
        ([b"SSH-2.0-other\r\n"], 0, False, "cannot be understood", False), ([b""], 0, False, "broke", False),
        ([b"HTTP/1.1 200 OK\r\n" + b"a: b\r\n" * 5000], 0, False, "broke", False),
    ],
)  # fmt: skip
def test_what_is_not_taken_is_said_and_ends(
    pieces: list[bytes], pause_s: float, endless: bool, match: str, lasting: bool
) -> None:
    started = time.monotonic()
    with says(*pieces, pause_s=pause_s, endless=endless) as (url, heard), pytest.raises(NotTaken, match=match) as fault:
        post(url, {}, b"{}", private=True, whole_s=1.5)
    assert fault.value.lasting is lasting
    assert len(heard) == 1
    assert time.monotonic() - started < 30


def test_a_greeting_without_an_end_is_cut_off() -> None:
    """A record of TLS that is said to be long, and comes byte by byte."""
    started = time.monotonic()
    with says(b"\x16\x03\x03\x3f\xff", b"\x02", pause_s=0.2, endless=True) as (url, heard):
        with pytest.raises(NotTaken):
            post(url.replace("http:", "https:"), {}, b"{}", private=True, whole_s=1.5)
        assert time.monotonic() - started < 30
    assert len(heard) == 1


def test_of_many_addresses_a_few_are_tried_within_the_same_time(monkeypatch: pytest.MonkeyPatch) -> None:
    tried: list[Any] = []

    def connect(line: socket.socket, at: Any) -> None:
        tried.append((at, line.gettimeout()))
        time.sleep(0.3)
        raise TimeoutError

    monkeypatch.setattr(socket, "getaddrinfo", resolving([f"93.184.216.{n}" for n in range(1, 100)])[0])
    monkeypatch.setattr(socket.socket, "connect", connect)
    with pytest.raises(NotTaken, match="in time"):
        post("https://hooks.example/x", {}, b"{}", private=False, whole_s=1.5)
    assert [at for (at, _), _ in tried] == [f"93.184.216.{n}" for n in range(1, 5)]
    left = [within for _, within in tried]
    assert left == sorted(left, reverse=True)
    assert left[-1] < left[0] - 0.8


def test_a_reply_without_an_end_is_not_heard_to_it() -> None:
    head = b"HTTP/1.1 200 OK\r\ntransfer-encoding: chunked\r\n\r\n"
    with says(head, b"1000\r\n" + b"x" * 0x1000 + b"\r\n", endless=True) as (url, _):
        post(url, {}, b"{}", private=True, whole_s=10)
