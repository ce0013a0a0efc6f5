"""One worker process seen from our side: a framed conversation with a deadline."""

from __future__ import annotations

import json
import os
import selectors
import signal
import struct
import subprocess
import sys
import sysconfig
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, Final

from harquel.core.errors import Cancelled, SandboxError

GRACE_S: Final = 0.75
"""How long a worker may go on after its own clock should have stopped it."""
_POLL_S: Final = 0.05
_FRAME: Final = struct.Struct(">I")
_ROWS: Final = b"["
"""How a frame of rows begins; a reply is an object."""
_STOP_S: Final = 1.5
"""How long a server may take to stop a statement before its worker goes anyway."""
_PACKAGES: Final = sysconfig.get_path("platlib")
"""Where the drivers are; workers start without the usual paths."""


class Worker:
    """A started worker. Not for use by two threads at once."""

    def __init__(self, program: Path, memory_bytes: int, stoppable: bool = False) -> None:
        """`stoppable`: it takes the order to stop, so that a server behind it stops too."""
        self._stoppable = stoppable
        self._process = subprocess.Popen(
            [sys.executable, "-I", "-S", str(program), str(memory_bytes), str(os.getpid()), _PACKAGES],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            # One arena: every thread's own would count against the limit on memory.
            env={"LANG": "C.UTF-8", "TZ": "UTC", "MALLOC_ARENA_MAX": "1"},
            cwd="/",
            start_new_session=True,
        )
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        self._in, self._out = self._process.stdin, self._process.stdout
        self._selector = selectors.DefaultSelector()
        self._selector.register(self._out, selectors.EVENT_READ)

    @property
    def pid(self) -> int:
        """Process id."""
        return self._process.pid

    def wait_ready(self, within_s: float = 20.0) -> None:
        """Returns once the worker has confined itself. Raises SandboxError when it does not come up."""
        self._receive(time.monotonic() + within_s, 16, lambda: False)

    def alive(self) -> bool:
        """Whether the process still runs."""
        return self._process.poll() is None

    def ask(
        self, request: dict[str, Any], seconds: float, most_bytes: int, stopped: Callable[[], bool],
        each: Callable[[bytes], None] | None = None,
    ) -> dict[str, Any]:  # fmt: skip
        """Sends a request and waits for the reply. `each` takes the frames of rows before it, as they come, where the
        request is to hand them on; `most_bytes` is for what stands in one frame.

        Raises SandboxError (time, memory, worker, what `each` raises) or Cancelled; after either the worker must go.
        """
        deadline = time.monotonic() + seconds + GRACE_S
        # JSON may write a byte as up to six; beyond that the worker is not keeping to its limits.
        most = most_bytes * 7 + 1_000_000
        self._send(request)
        try:
            while (body := self._receive(deadline, most, stopped))[:1] == _ROWS and each is not None:
                each(body)
                # Rows that come without a pause leave no pause to look up in.
                if stopped():
                    raise Cancelled("stopped while the database was working")
            reply: dict[str, Any] = json.loads(body)
        except (Cancelled, SandboxError):
            self._stop(most)
            raise
        return reply

    def _send(self, request: dict[str, Any]) -> None:
        payload = json.dumps(request).encode()
        try:
            self._in.write(_FRAME.pack(len(payload)) + payload)
            self._in.flush()
        except OSError as error:
            raise SandboxError("the worker is gone", "worker") from error

    def _stop(self, most: int) -> None:
        """Lets the worker stop its server; what it says to that interests nobody."""
        if self._stoppable and self.alive():
            try:
                self._send({"op": "stop"})
                until = time.monotonic() + _STOP_S
                while self._receive(until, most, lambda: False)[:1] == _ROWS:
                    pass
            except SandboxError:
                pass  # it is ended in any case

    def _receive(self, deadline: float, most: int, stopped: Callable[[], bool]) -> bytes:
        (length,) = _FRAME.unpack(self._exactly(_FRAME.size, deadline, stopped))
        if length > most:
            raise SandboxError("the worker sent more than it may", "memory")
        return self._exactly(length, deadline, stopped)

    def _exactly(self, count: int, deadline: float, stopped: Callable[[], bool]) -> bytes:
        data = bytearray()
        while len(data) < count:
            if self._selector.select(min(_POLL_S, max(0.0, deadline - time.monotonic()))):
                # Past Python's buffer: what lies in there would never wake the selector.
                piece = os.read(self._out.fileno(), min(count - len(data), 1 << 20))
                if not piece:
                    raise self._died()
                data += piece
            elif stopped():
                raise Cancelled("stopped while the database was working")
            # Looked at in any case: one that says a little again and again would never be late.
            if len(data) < count and time.monotonic() > deadline:
                raise SandboxError("the statement did not end in time and was stopped", "time")
        return bytes(data)

    def _died(self) -> SandboxError:
        try:
            code = self._process.wait(timeout=2)
        except subprocess.TimeoutExpired:
            code = 0
        if code == -signal.SIGXCPU:
            return SandboxError("the statement used up its processor time and was stopped", "time")
        if code in (-signal.SIGSEGV, -signal.SIGABRT, -signal.SIGBUS):
            return SandboxError("the statement broke its worker, most likely for want of memory", "memory")
        return SandboxError(f"the worker ended unexpectedly (code {code})", "worker")

    def kill(self) -> None:
        """Ends the process and waits until it is gone."""
        self._process.kill()
        self._process.wait()
        self._selector.close()
        self._out.close()
        try:
            self._in.close()
        except BrokenPipeError:
            pass  # what was still in the buffer had nobody left to read it
