"""The simulated model as a process of its own, for as long as a block lasts."""

from __future__ import annotations

import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

from harquel.demo.stage import free_address


@contextmanager
def simulated_model(key: str | None = None) -> Iterator[str]:
    """Its base URL; it asks for a key where one is given."""
    address = free_address()
    process = subprocess.Popen(
        [sys.executable, "-m", "harquel", "standin", "model", "--bind", address, *(["--key", key] if key else [])],
        stdout=subprocess.DEVNULL,
    )
    try:
        for _ in range(200):
            try:
                with urllib.request.urlopen(f"http://{address}/healthz", timeout=1):
                    break
            except OSError:
                time.sleep(0.05)
        yield f"http://{address}/v1"
    finally:
        process.terminate()
        process.wait()
