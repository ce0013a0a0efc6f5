"""The parts that the connection checks of all engines share."""

from __future__ import annotations

import socket
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Literal

from harquel.core.engines.base import CheckStep

Verdict = Literal["well", "warning", "failed", "skipped"]
Said = tuple[str, str, str, str]
"""Verdict, fault, what is said, what to do."""


def well(said: str) -> Said:
    """All is as it should be."""
    return ("well", "", said, "")


def warned(fault: str, said: str, remedy: str) -> Said:
    """It works, but should be otherwise."""
    return ("warning", fault, said, remedy)


def failed(fault: str, said: str, remedy: str) -> Said:
    """It does not work."""
    return ("failed", fault, said, remedy)


def skipped(said: str) -> Said:
    """It could not be asked, or does not apply."""
    return ("skipped", "", said, "")


@dataclass
class Step:
    """A step under way: set `result` inside the block of `timed`."""

    name: str
    result: Said = ("skipped", "", "", "")
    elapsed_ms: float = 0.0

    @property
    def failed(self) -> bool:
        """Whether what follows makes no sense."""
        return self.result[0] == "failed"

    def made(self) -> CheckStep:
        """The step as told."""
        verdict, fault, said, remedy = self.result
        return CheckStep(self.name, verdict, said, remedy, fault, round(self.elapsed_ms, 1))  # type: ignore[arg-type]


@contextmanager
def timed(name: str) -> Iterator[Step]:
    """A step with its time."""
    step, started = Step(name), time.perf_counter()
    try:
        yield step
    finally:
        step.elapsed_ms = (time.perf_counter() - started) * 1000


def look_up(host: str) -> tuple[Said, list[str]]:
    """Name resolution: what is said of it, and the addresses."""
    try:
        found = sorted({str(a[4][0]) for a in socket.getaddrinfo(host, None, type=socket.SOCK_STREAM)})
    except OSError as error:
        why = error.strerror or str(error)
        return failed("unknown-host", f"The name {host} is not known ({why}).", "Check host for a misspelling."), []
    return well(f"{host} is {', '.join(found)}."), found


def knock(host: str, port: int, server: str, within_s: float = 5.0) -> Said:
    """Whether somebody listens at the port."""
    try:
        socket.create_connection((host, port), timeout=within_s).close()
    except ConnectionRefusedError:
        return failed(
            "port-closed", f"Nobody listens on port {port} of {host}.",
            f"Check the port, and whether {server} is running and accepts connections from here.",
        )  # fmt: skip
    except TimeoutError:
        return failed(
            "port-silent", f"Port {port} of {host} does not answer within {within_s:g} s.",
            "A firewall may be in the way, or the host is down.",
        )  # fmt: skip
    except OSError as error:
        return failed("unreachable", f"{host}:{port} cannot be reached ({error.strerror}).", "Check host and network.")
    return well(f"Port {port} answers.")
