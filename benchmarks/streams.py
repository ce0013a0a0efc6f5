"""What 300 streams that are open at once cost the service: threads and descriptors."""

from __future__ import annotations

import os
import time
from contextlib import ExitStack
from pathlib import Path

import httpx

from benchmarks.figure import Figure
from harquel.client import Harquel
from harquel.demo.stage import Stage, free_address

STREAMS, OF_A_TOKEN = 300, 60


def measure(folder: Path) -> list[Figure]:
    """Above what the service has without them; every stream hears the end of its inquiry."""
    stage = Stage(folder, free_address(), free_address(), lambda _: None, pace_s=12.0)
    with stage, Harquel(stage.url, stage.token) as client, ExitStack() as stack:
        process = stage.processes[1].pid
        scopes = ["ask", "audit"]
        made = [client.create_token(f"t{n}", "Ada Brinewell", ["*"], scopes) for n in range(STREAMS // OF_A_TOKEN)]
        key = client.ask("How many vessels are there?", "ferries", wait_s=0).id
        before = _uses(process)
        lines = []
        for token in (m.secret for m in made):
            line = httpx.Client(base_url=stage.url, headers={"Authorization": f"Bearer {token}"}, timeout=60)
            http = stack.enter_context(line)
            path = f"/api/v1/inquiries/{key}/events"
            lines += [stack.enter_context(http.stream("GET", path)) for _ in range(OF_A_TOKEN)]
        time.sleep(1.0)
        now = _uses(process)
        opened = sum(line.status_code == 200 for line in lines)
        heard = sum("event: ended" in line.read().decode() for line in lines)
    return [
        Figure(f"streams open at once, of {STREAMS}", float(opened), ""),
        Figure("of them, heard the end", float(heard), ""),
        Figure("threads for them", float(now[0] - before[0]), ""),
        Figure("descriptors for them", float(now[1] - before[1]), "", float(STREAMS), "a socket each"),
    ]


def _uses(process: int) -> tuple[int, int]:
    return len(os.listdir(f"/proc/{process}/task")), len(os.listdir(f"/proc/{process}/fd"))
