"""The clean process that conductors are forked from: no thread, no connection, no record, only our code loaded.

It is forked from the service before that has a thread, or started from nothing where it was lost. It talks over one
socket: a descriptor comes in and a process id goes out; a process id comes in and how it ended goes out.
"""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import threading
import time
from contextlib import suppress
from importlib import import_module
from multiprocessing.connection import Connection
from typing import Final

_BY_ITSELF_S: Final = 1.0
_ANSWERS_S: Final = 30.0


class NurseryLost(OSError):
    """The process is gone, or does not answer."""


class Nursery:
    """One a service; started anew where it was lost. For use by many threads."""

    def __init__(self, computing_s: float, memory_bytes: int, prepare: str) -> None:
        """`prepare` is the place (module:function) of what a conductor does first; empty: nothing."""
        self._terms = (str(computing_s), str(memory_bytes), prepare)
        self._lock = threading.Lock()
        self._line: socket.socket | None = None
        self._started: subprocess.Popen[bytes] | None = None
        """Where it was started from nothing."""
        self.pid = 0

    def begin(self) -> None:
        """Starts it; without a thread in this process by a fork, which costs nothing."""
        with self._lock:
            self._start(fork=threading.active_count() == 1)

    def new(self, theirs: Connection) -> int:
        """A new conductor at the other end of a pipe; its process id. Raises NurseryLost when none can be made."""
        with self._lock:
            for last in (False, True):
                try:
                    if self._line is None:
                        self._start(fork=False)
                    assert self._line is not None
                    socket.send_fds(self._line, [b"new"], [theirs.fileno()])
                    return int(self._heard())
                except (OSError, ValueError) as error:
                    self._drop()
                    if last:
                        raise NurseryLost(f"no process can be made: {error}") from error
        raise AssertionError("a second loss is told above")

    def ended(self, pid: int) -> int | None:
        """How a conductor ended, as with subprocess; it is ended if it has not by itself. None where nobody knows."""
        with self._lock:
            if self._line is None:
                return None
            try:
                self._line.send(f"end {pid}".encode())
                said = self._heard()
            except OSError:
                self._drop()
                return None
            return int(said) if said else None

    def close(self) -> None:
        """Ends it. The conductors end by themselves once their pipes are closed."""
        with self._lock:
            self._drop()

    def _heard(self) -> str:
        assert self._line is not None
        said = self._line.recv(64)
        if not said:
            raise NurseryLost("it is gone")
        return said.decode().strip()

    def _start(self, fork: bool) -> None:
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        ours.settimeout(_ANSWERS_S)
        with theirs:
            if fork:
                sys.stdout.flush()
                sys.stderr.flush()
                self.pid = os.fork()
                if self.pid == 0:
                    _only(theirs.fileno())
                    _keep(theirs, *self._terms)
            else:
                told = [str(theirs.fileno()), *self._terms]
                program = f"from {__name__} import main; main()"
                self._started = subprocess.Popen(
                    [sys.executable, "-c", program, *told], pass_fds=[theirs.fileno()], start_new_session=True
                )
                self.pid = self._started.pid
        self._line = ours

    def _drop(self) -> None:
        if self._line is None:
            return
        self._line.close()
        self._line = None
        if self._started is not None:
            with suppress(subprocess.TimeoutExpired):
                self._started.wait(_BY_ITSELF_S)
            self._started = None
            return
        deadline = time.monotonic() + _BY_ITSELF_S
        with suppress(ChildProcessError):
            while os.waitpid(self.pid, os.WNOHANG)[0] == 0 and time.monotonic() < deadline:
                time.sleep(0.005)


def _only(kept: int) -> None:
    """Nothing else of what was open before is any business of conductors."""
    os.closerange(3, kept)
    os.closerange(kept + 1, 65_536)


def _keep(line: socket.socket, computing_s: str, memory_bytes: str, prepare: str) -> None:
    """The life of the nursery; does not return."""
    try:
        # The service ends us by closing the line; a signal to all from a terminal is for it to hear.
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        with suppress(PermissionError):
            os.setsid()
        process = import_module("harquel.service.conductors.process")
        import_module("harquel.service.conductors.warm_up").warm_up()
        line.settimeout(None)
        while True:
            said, descriptors, _, _ = socket.recv_fds(line, 64, 1)
            if not said:
                break
            word, _, pid = said.decode().partition(" ")
            if word == "new":
                made = os.fork()
                if made == 0:
                    line.close()
                    process.run(Connection(descriptors[0]), float(computing_s), int(memory_bytes), prepare)
                    os._exit(0)
                os.close(descriptors[0])
                line.send(str(made).encode())
            else:
                line.send(_how_it_ended(int(pid)).encode())
    except BaseException:  # nothing of the process that we were forked from may go on in here
        sys.excepthook(*sys.exc_info())
        os._exit(1)
    os._exit(0)


def _how_it_ended(pid: int) -> str:
    deadline = time.monotonic() + _BY_ITSELF_S
    try:
        # Whoever asks has seen the end of its pipe, or has ended it: this takes no time.
        while (found := os.waitpid(pid, os.WNOHANG))[0] == 0 and time.monotonic() < deadline:
            time.sleep(0.002)
        if found[0] == 0:
            os.kill(pid, signal.SIGKILL)
            found = os.waitpid(pid, 0)
    except ChildProcessError:
        return " "  # of a nursery before this one
    return str(os.waitstatus_to_exitcode(found[1]))


def main() -> None:
    """Of one that is started from nothing."""
    _keep(socket.socket(fileno=int(sys.argv[1])), *sys.argv[2:])
