"""The programs of docs/cookbook, each run as it stands there."""

from __future__ import annotations

import contextlib
import io
import json
import os
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import httpx
import pytest

from harquel.client import Harquel
from harquel.client.casebooks import keep_titled
from harquel.demo.stage import Stage, free_address

BOOK = Path(__file__).parents[1] / "docs" / "cookbook"
AUGUST = "How many sailings were cancelled in August 2026?"


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("cookbook"), pace_s=0.2) as running:
        yield running


def environment(own: Stage) -> dict[str, str]:
    return {**os.environ, "HARQUEL_URL": own.url, "HARQUEL_TOKEN": own.token}


def ran(own: Stage, name: str, *arguments: str, said: str = "", **more: Any) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, str(BOOK / name), *arguments], env=environment(own) | more, input=said, text=True,
        capture_output=True, timeout=120, check=False,
    )  # fmt: skip


def test_every_program_is_named_in_the_page_that_tells_of_them() -> None:
    told = (BOOK.parent / "embedding.md").read_text("utf-8")
    names = {path.name for path in BOOK.iterdir() if path.suffix in (".py", ".ipynb")}
    assert len(names) == 6
    assert {name for name in names if f"cookbook/{name}" in told} == names


def test_a_back_end_asks(own: Stage) -> None:
    clear = ran(own, "ask.py", AUGUST, "ferries")
    assert (clear.returncode, clear.stdout) == (0, "12 sailings were cancelled in August 2026. [clear]\n")
    doubtful = ran(own, "ask.py", "Show all bookings", "ferries")
    assert (doubtful.returncode, "\n  - " in doubtful.stdout) == (10, True)
    back = ran(own, "ask.py", "How many were cancelled in August 2026?", "ferries")
    assert (back.returncode, back.stdout.count("\n") >= 3) == (3, True)
    assert ran(own, "ask.py", AUGUST, HARQUEL_TOKEN="none").returncode == 9


def test_a_page_gets_stages_and_the_answer(own: Stage) -> None:
    port = free_address().rpartition(":")[2]
    around = {**environment(own), "HARQUEL_SOURCE": "ferries"}
    server = subprocess.Popen([sys.executable, str(BOOK / "stream_to_page.py"), port], env=around)
    try:
        until = time.monotonic() + 30
        while True:
            with contextlib.suppress(httpx.TransportError):
                assert "EventSource" in httpx.get(f"http://127.0.0.1:{port}/").text
                break
            assert time.monotonic() < until
            time.sleep(0.1)
        told = httpx.get(f"http://127.0.0.1:{port}/ask", params={"q": AUGUST}, timeout=60).text
    finally:
        server.terminate()
        server.wait(10)
    events = [json.loads(line.removeprefix("data: ")) for line in told.splitlines() if line]
    stages = [e["stage"] for e in events if "stage" in e]
    assert (stages[0], "Checking the query …" in stages) == ("Preparing …", True)
    assert events[-1] == {"answer": "12 sailings were cancelled in August 2026.", "mark": "clear"}


def test_a_bot_keeps_conversations_apart(own: Stage) -> None:
    lines = [
        "Odo: How many were cancelled in August 2026?", f"Rhea: {AUGUST}", "Odo: 99", "Odo: 1", "Rhea: and last year?",
        "nothing", "Tam: drop table sailing",
    ]  # fmt: skip
    found = ran(own, "chat_bot.py", "ferries", said="\n".join(lines)).stdout.splitlines()
    assert len(found) == 6
    assert "1. " in found[0]
    assert found[1].startswith("@Rhea: 12 sailings were cancelled in August 2026. – clear")
    assert "August 2025" in found[4]


def test_a_report_says_what_has_moved(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    out = tmp_path / "report.html"
    with new_stage(tmp_path / "stage") as running:
        with Harquel(running.url, running.token) as client:
            key = client.send(
                keep_titled(client.ask(AUGUST, "ferries").id, "Each night", "[=sailings-cancelled-august]!")
            ).id
        first = ran(running, "nightly_report.py", key, str(out))
        assert first.returncode == 0, first
        assert "12 sailings were cancelled in August 2026. [clear]" in first.stdout
        with closing(sqlite3.connect(running.folder / "ferries.db")) as ferries, ferries:
            ferries.execute(
                "UPDATE sailing SET status = 'X' WHERE id IN (SELECT id FROM sailing WHERE status <> 'X' AND "
                "scheduled_departure >= '2026-08-03' AND scheduled_departure < '2026-08-04' LIMIT 2)"
            )
        second = ran(running, "nightly_report.py", key, str(out))
        assert (second.returncode, "14 sailings" in second.stdout) == (1, True)
        assert "14 sailings" in out.read_text("utf-8")
        assert ran(running, "nightly_report.py", "cb_none", str(out)).returncode == 9


def test_a_notebook_runs_from_its_first_cell_to_its_last(
    own: Stage, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    for name, value in (("HARQUEL_URL", own.url), ("HARQUEL_TOKEN", own.token)):
        monkeypatch.setenv(name, value)
    notebook = json.loads((BOOK / "notebook.ipynb").read_text("utf-8"))
    said, names = io.StringIO(), dict[str, Any]()
    with contextlib.redirect_stdout(said):
        for cell in notebook["cells"]:
            if cell["cell_type"] == "code":
                assert not cell["outputs"]
                exec("".join(cell["source"]), names)
    assert "2026 so far" in said.getvalue()
    assert names["worst"]["sailing_count"] == 51
    assert (tmp_path / "cancelled.svg").read_text("utf-8").startswith("<svg")
