"""Live progress: shown on a terminal, and only there."""

from __future__ import annotations

import os
import pty
import select
import time
from collections.abc import Callable
from pathlib import Path

import httpx

from harquel.client import Harquel
from harquel.demo.stage import Stage
from tests.forked import Forked, run_harquel

QUESTION = "Which five routes earned most this year?"


def on_a_terminal(stage: Stage, *arguments: str, types: tuple[tuple[str, str], ...] = ()) -> str:
    """All that a terminal would have received. `types` pairs what is waited for with what is then typed."""
    left = list(types)
    master, slave = pty.openpty()
    environment = {
        **os.environ,
        "HARQUEL_URL": stage.url,
        "HARQUEL_TOKEN": stage.token,
        "TERM": "xterm",
        "COLUMNS": "90",
    }
    process = Forked(arguments, [os.ttyname(slave)] * 3, environment)
    received = b""
    deadline = time.monotonic() + 40
    while time.monotonic() < deadline:
        if select.select([master], [], [], 0.1)[0]:
            try:
                received += os.read(master, 65536)
            except OSError:
                break
            if left and left[0][0].encode() in received:
                os.write(master, f"{left.pop(0)[1]}\n".encode())
        elif process.poll() is not None:
            break
    process.wait()
    os.close(slave)
    os.close(master)
    return received.decode("utf-8", "replace")


def test_a_terminal_sees_the_draft_being_written(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with new_stage(tmp_path / "paced", pace_s=1.5) as paced:
        seen = on_a_terminal(paced, "ask", "-s", "ferries", QUESTION)
        written = seen.index('{"sql"')
        answered = seen.index("Revenue by routes in 2026 so far")
        assert written < answered
        assert "● clear" in seen[answered:]
        given = {**os.environ, "HARQUEL_URL": paced.url, "HARQUEL_TOKEN": paced.token}
        piped = run_harquel("ask", "-s", "ferries", QUESTION, env=given)
        assert piped.returncode == 0
        assert '{"sql"' not in piped.stdout + piped.stderr
        assert "\x1b[" not in piped.stdout


def test_a_question_that_is_asked_back_is_settled_at_the_prompt(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    with new_stage(tmp_path / "open") as stage:
        question = "How many were cancelled in August 2026?"
        seen = on_a_terminal(
            stage, "ask", "-s", "ferries", question, types=(("Number, or nothing", "7"), ("from 1 to 2", "2"))
        )
        assert "sailings: 12" in seen
        assert "Sailings (cancelled) in August 2026: 12." in seen
        left = on_a_terminal(stage, "ask", "-s", "ferries", question, types=(("Number, or nothing", ""),))
        assert "we ask back" in left
        with Harquel(stage.url, stage.token) as client:
            assert [i.outcome for i in client.inquiries().items] == ["clarify", "answered", "clarify"]


def test_leaving_the_stream_does_not_stop_the_inquiry(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with new_stage(tmp_path / "left", pace_s=1.5) as paced, Harquel(paced.url, paced.token) as client:
        key = client.ask(QUESTION, "ferries", wait_s=0).id
        headers = {"Authorization": f"Bearer {paced.token}"}
        url = f"{paced.url}/api/v1/inquiries/{key}/events"
        with httpx.stream("GET", url, headers=headers, timeout=10) as response:
            next(response.iter_lines())
        kinds = [e.kind for e in client.events(key)]
        assert kinds[-1] == "ended"
        assert client.inquiry(key).outcome == "answered"


def test_two_listeners_hear_the_same(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    from concurrent.futures import ThreadPoolExecutor

    with new_stage(tmp_path / "two", pace_s=1.0) as paced, Harquel(paced.url, paced.token) as client:
        key = client.ask(QUESTION, "ferries", wait_s=0).id

        def listen(_: int) -> list[tuple[str, int | None]]:
            with Harquel(paced.url, paced.token) as own:
                return [(e.kind, e.number) for e in own.events(key) if e.kind != "piece"]

        with ThreadPoolExecutor(2) as pool:
            first, second = pool.map(listen, range(2))
        assert first == second
        assert first[-1][0] == "ended"


def test_the_progress_of_a_scan_is_shown_table_by_table(stage: Stage) -> None:
    shown = on_a_terminal(stage, "source", "scan", "ferries")
    assert "/18" in shown
    assert "reading the structure" in shown or "weather_reading" in shown
    assert "Scanned 18 tables" in shown
