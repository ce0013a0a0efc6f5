"""The demo on its stage: it starts, is left as it was changed, and leaves no process behind."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from harquel.client import Harquel
from harquel.core.curation.yaml_text import read_yaml
from harquel.demo.stage import Stage, StageError, free_address


def gone(pid: int, within_s: float = 10.0) -> bool:
    deadline = time.monotonic() + within_s
    while time.monotonic() < deadline:
        status = Path(f"/proc/{pid}/stat")
        if not status.exists() or status.read_text().rsplit(")", 1)[1].split()[0] == "Z":
            return True
        time.sleep(0.05)
    return False


def test_what_a_steward_changed_stays_and_the_token_too(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    stage = new_stage(tmp_path / "mine")
    with stage:
        token, processes = stage.token, list(stage.processes)
    assert all(p.poll() is not None for p in processes)
    policy = stage.folder / "policy.yaml"
    policy.write_text(policy.read_text().replace("rows: 1000", "rows: 3"))
    stage.extra["HARQUEL__SERVICE__TRY_STARTERS"] = "false"
    with stage, Harquel(stage.url, token) as client:
        assert stage.token == token
        # What a steward wrote is offered untried, and no model was asked for it.
        written = read_yaml((stage.folder / "starters.yaml").read_text())
        since = time.monotonic()
        while client.source("ferries").starters != written and time.monotonic() - since < 20:
            time.sleep(0.2)
        assert client.source("ferries").starters == written
        found = client.ask("Show all harbours", "ferries")
        assert found.answer is not None
        assert (found.answer.table.row_count, found.trust) == (3, "caution")
    assert (stage.folder / "records" / "demo-token").stat().st_mode & 0o777 == 0o600


def test_a_service_that_cannot_start_ends_the_stage_with_its_own_words(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    stage = new_stage(tmp_path / "broken")
    (stage.folder / "policy.yaml").write_text("limits: {rosw: 3}")
    with pytest.raises(StageError, match="Did you mean rows"), stage:
        pass
    assert stage.processes == []


def test_a_demo_that_is_killed_takes_its_processes_along(ferries: Path, tmp_path: Path) -> None:
    os.link(ferries, tmp_path / "ferries.db")
    command = [
        sys.executable,
        "-m",
        "harquel",
        "demo",
        "--folder",
        str(tmp_path),
        "--bind",
        free_address(),
        "--model",
        free_address(),
        *(part for option in ("--chat", "--mail", "--smtp") for part in (option, free_address())),
    ]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    for line in process.stdout:
        if "Ctrl-C" in line:
            break
    children = [
        int(c) for t in Path(f"/proc/{process.pid}/task").iterdir() for c in (t / "children").read_text().split()
    ]
    assert len(children) == 4
    process.send_signal(signal.SIGKILL)
    process.wait()
    process.stdout.close()
    assert all(gone(child) for child in children)
