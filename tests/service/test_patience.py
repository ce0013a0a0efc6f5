"""Requests by halves, streams without number, a full disk: none takes the service away for longer than it lasts."""

from __future__ import annotations

import asyncio
import os
import resource
import socket
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, suppress
from pathlib import Path

import httpx
import pytest
import uvicorn
from starlette.responses import Response
from starlette.types import Receive, Scope, Send

from harquel.demo.stage import Stage
from harquel.service import patience
from harquel.service.lanes import OF_ONE, Lanes
from harquel.service.serving import listen
from tests.service.test_records import in_django


async def echo(scope: Scope, receive: Receive, send: Send) -> None:
    body = b""
    while (message := await receive())["type"] == "http.request":
        body += message.get("body", b"")
        if not message.get("more_body"):
            await Response(body)(scope, receive, send)
            return


@pytest.fixture
def address(monkeypatch: pytest.MonkeyPatch) -> Iterator[tuple[str, int]]:
    """A server with the same protocol and less patience."""
    monkeypatch.setattr(patience, "HEAD_S", 1.0)
    monkeypatch.setattr(patience, "BODY_S", 6.0)
    with socket.create_server(("127.0.0.1", 0)) as listening:
        server = uvicorn.Server(
            uvicorn.Config(echo, http=patience.PatientProtocol, lifespan="off", log_level="critical")
        )
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
        thread.start()
        yield listening.getsockname()
        server.should_exit = True
        thread.join(10)


def test_requests_by_halves_are_ended_and_others_served_meanwhile(address: tuple[str, int]) -> None:
    heads = (b"", b"GET /api/v1/me HT", b"GET /api/v1/me HTTP/1.1\r\nHost: x\r\nAuthor",
             b"POST /api/v1/inquiries HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 9999\r\n\r\n{")  # fmt: skip
    with ExitStack() as stack:
        lines = [stack.enter_context(socket.create_connection(address, timeout=60)) for _ in range(20)]
        started = time.monotonic()
        for number, line in enumerate(lines):
            line.sendall(heads[number % len(heads)])
        url = f"http://{address[0]}:{address[1]}/"
        assert httpx.post(url, content=b"whole", timeout=10).content == b"whole"
        for number, line in enumerate(lines):
            said = b""
            while piece := line.recv(4096):
                said += piece
            if 0 < number % len(heads) < 3:
                assert b" 408 " in said or b" 400 " in said, said
        assert 0.9 < time.monotonic() - started < 20


def test_a_head_that_drips_has_no_more_time(address: tuple[str, int]) -> None:
    with socket.create_connection(address, timeout=60) as line:
        line.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n")
        started = time.monotonic()
        with suppress(OSError):
            while time.monotonic() - started < 20:
                line.sendall(b"X-Drip: 1\r\n")
                time.sleep(0.1)
        assert time.monotonic() - started < 15


def test_a_body_that_drips_and_slow_readers_of_many_requests_are_let_through_in_time(address: tuple[str, int]) -> None:
    head = b"POST / HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 8\r\n\r\n"
    with socket.create_connection(address, timeout=10) as line:
        for _ in range(3):
            line.sendall(head)
            for _ in range(8):
                line.sendall(b"x")
                time.sleep(0.03)
            said = b""
            while not said.endswith(b"x" * 8):
                said += line.recv(4096)
            assert said.startswith(b"HTTP/1.1 200")


def test_a_request_without_an_end_fills_neither_disk_nor_memory(stage: Stage) -> None:
    process, seen = stage.processes[1].pid, []

    def pieces() -> Iterator[bytes]:
        yield b'{"question": "'
        for number in range(300):
            yield b"x" * 1_000_000
            if number % 50 == 49:
                seen.append((on_its_disk(process), resident(process)))

    before = resident(process)
    headers = {"Authorization": f"Bearer {stage.token}", "Content-Type": "application/json"}
    refused = httpx.post(f"{stage.url}/api/v1/inquiries", content=pieces(), headers=headers, timeout=60)
    assert (refused.status_code, refused.json()["type"]) == (413, "/problems/too-large")
    assert max(disk for disk, _ in seen) < 2_000_000
    assert max(memory for _, memory in seen) - before < 50_000_000


def test_who_asks_for_much_that_takes_long_waits_for_himself_and_nobody_for_him() -> None:
    async def tried() -> None:
        lanes, open_now, most = Lanes(), 0, 0
        ended = asyncio.Event()

        async def slow(shown: str) -> None:
            nonlocal open_now, most
            async with lanes.of(shown):
                open_now += 1
                most = max(most, open_now)
                await ended.wait()
                open_now -= 1

        greedy = [asyncio.create_task(slow("one")) for _ in range(100)]
        await asyncio.sleep(0)
        left = asyncio.create_task(slow("one"))
        await asyncio.sleep(0.05)
        left.cancel()
        for other in ("two", "three", ""):
            async with asyncio.timeout(1), lanes.of(other):
                pass
        assert (open_now, most) == (OF_ONE, OF_ONE)
        ended.set()
        await asyncio.gather(*greedy)
        assert most == OF_ONE
        assert lanes._open == {}

    asyncio.run(tried())


def test_a_caller_is_one_however_the_token_is_written(tmp_path: Path) -> None:
    said = in_django(
        tmp_path,
        """
        from django.test import RequestFactory
        from harquel.service.access.authentication import shown_by
        def shown(header="", cookie=""):
            return shown_by(RequestFactory().get("/", HTTP_AUTHORIZATION=header, HTTP_COOKIE=cookie))
        one = {shown(h, c) for h in ("Bearer abc", "bearer abc", "BEARER   abc ", "Bearer \tabc\xa0")
               for c in ("", "harquel_session=x", "other=1")}
        session = {shown(cookie=c) for c in ("harquel_session=x", "a=1; harquel_session=x; b=2", "harquel_session=x;")}
        nobody = {shown(), shown(cookie="a=1"), shown(cookie="harquel_session=")}
        print(len(one), len(session), len(nobody), len(one | session | nobody | {shown("Bearer abd")}))
        """,
    )
    assert said == "1 1 1 4"


def on_its_disk(process: int) -> int:
    """Bytes in files that a process holds open without a name."""
    held = (Path(f"/proc/{process}/fd/{number}") for number in os.listdir(f"/proc/{process}/fd"))
    return sum(file.stat().st_size for file in held if "(deleted)" in os.readlink(file))


def resident(process: int) -> int:
    """Bytes of memory."""
    return int(Path(f"/proc/{process}/statm").read_text().split()[1]) * resource.getpagesize()


def test_a_full_disk_is_said_and_nothing_hangs_until_there_is_room(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    with new_stage(tmp_path / "full", pace_s=0.8) as stage:
        process = stage.processes[1].pid
        headers = {"Authorization": f"Bearer {stage.token}"}
        with httpx.Client(base_url=f"{stage.url}/api/v1/", headers=headers, timeout=30) as http:
            body = {"question": "How many vessels are there?", "source": "ferries"}
            key = http.post("inquiries", json=body).json()["id"]
            time.sleep(0.3)
            resource.prlimit(process, resource.RLIMIT_FSIZE, (4096, -1))
            assert "event: ended" not in http.get(f"inquiries/{key}/events").text
            found = http.get(f"inquiries/{key}").json()
            assert (found["state"], found["outcome"], found["answer"]) == ("ended", "failed", None)
            assert found["problem"]["type"] == "records-unwritable"
            assert http.get("inquiries").json()["items"][0]["state"] == "ended"
            refused = http.post("inquiries", json=body)
            assert (refused.status_code, refused.json()["type"]) == (503, "/problems/records-unwritable")
            not_ready = http.get(f"{stage.url}/readyz")
            assert not_ready.status_code == 503
            assert "disk" in not_ready.json()["reason"]
            resource.prlimit(process, resource.RLIMIT_FSIZE, (-1, -1))
            deadline = time.monotonic() + 20
            while http.get(f"{stage.url}/readyz").status_code != 200:
                assert time.monotonic() < deadline
                time.sleep(0.2)
            while "ended" not in {e["kind"] for e in http.get("ledger", params={"inquiry": key}).json()["items"]}:
                assert time.monotonic() < deadline
                time.sleep(0.2)
            assert http.post("inquiries", json={**body, "wait_s": 20}).json()["outcome"] == "answered"
            assert http.get("ledger/verification").json()["intact"] is True


def test_streams_and_waits_take_no_thread_each(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with new_stage(tmp_path / "many", pace_s=3.0) as stage, ThreadPoolExecutor(30) as pool, ExitStack() as stack:
        headers = {"Authorization": f"Bearer {stage.token}"}
        http = stack.enter_context(httpx.Client(base_url=f"{stage.url}/api/v1/", headers=headers, timeout=60))
        body = {"question": "How many vessels are there?", "source": "ferries"}
        key = http.post("inquiries", json=body).json()["id"]
        before = uses(stage.processes[1].pid)
        lines = [stack.enter_context(http.stream("GET", f"inquiries/{key}/events")) for _ in range(60)]
        waits = [pool.submit(http.post, "inquiries", json={**body, "wait_s": 60}) for _ in range(8)]
        time.sleep(1.0)
        threads, descriptors = uses(stage.processes[1].pid)
        # Of the eight that are under way at once each asks two models beside each other; eight came at the same time.
        assert threads - before[0] <= 3 * 8 + 8 + 8
        assert descriptors - before[1] <= 2 * 68 + 3 * 8 + 40
        for line in lines:
            assert "event: ended" in line.read().decode()
        assert {w.result().json()["outcome"] for w in waits} == {"answered"}


def uses(process: int) -> tuple[int, int]:
    """Threads and open descriptors of a process."""
    return len(os.listdir(f"/proc/{process}/task")), len(os.listdir(f"/proc/{process}/fd"))


def test_an_answer_does_not_wait_for_the_other_side_to_say_that_it_got_the_first_half() -> None:
    """Without TCP_NODELAY the body follows the head once that is acknowledged, which takes 40 ms on an idle machine."""

    async def option() -> int:
        found: asyncio.Future[int] = asyncio.get_running_loop().create_future()

        def greeted(_: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            found.set_result(writer.get_extra_info("socket").getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY))
            writer.close()

        ours = listen("127.0.0.1:0")
        async with await asyncio.start_server(greeted, sock=ours):
            _, writer = await asyncio.open_connection(*ours.getsockname())
            writer.close()
            return await asyncio.wait_for(found, 10)

    assert asyncio.run(option()) == 1
